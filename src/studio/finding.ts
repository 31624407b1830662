import {
  ACTS,
  type Act,
  actOf,
  CAMERA_PARAMS,
  CONTROL_PARAMS,
  GAS_PARAMS,
  GLOW_PARAMS,
  LAYER_PARAMS,
  LIGHT_PARAMS,
  MASK_PARAMS,
  MATERIAL_PARAMS,
  OBJECT_PARAMS,
  type Sort,
  SYSTEM_PARAMS,
} from '../acts'
import { type ActDoc, findElement, type GasDoc, type ObjectDoc, type Params, type Shot, type SystemDoc, sectionsOf } from '../shot'
import { addForce, commands, elementsOf, GROUP_NAMES } from './commands'
import { newAct } from './create'
import { goToField } from './goTo'
import { best } from './search'
import { edit, select, setStudio, shotNow, studio } from './store'
import { toast } from './toast'

/** Something that Ctrl+K leads to. `texts`: what names it first, then synonyms, then what explains it. */
export interface Found {
  key: string
  name: string
  side: string
  texts: string[]
  /** It adds something. */
  adds?: boolean
  run: () => void
}
const showBoard = () => setStudio({ tab: 'life', folded: false })

/** Where an act of each sort goes in a system, or in an object; null: not by itself. */
const LIST_OF: Partial<Record<Sort, (e: SystemDoc) => ActDoc[]>> = {
  source: (s) => s.birth,
  force: (s) => s.whole.movement,
  contact: (s) => s.whole.contact,
  ending: (s) => s.whole.contact,
  offspring: (s) => s.whole.offspring,
  look: (s) => s.whole.look,
}
const LIST_IN: Partial<Record<Sort, (e: ObjectDoc) => ActDoc[]>> = {
  reshape: (o) => o.reshape,
  copies: (o) => o.copies,
  offspring: (o) => o.offspring,
}
/** The lists of a gas, and the one that an act goes to; null: to none. */
const GAS_LISTS = ['feeds', 'motion', 'burning', 'look'] as const
const gasList = (a: Act): (typeof GAS_LISTS)[number] | null =>
  a.sort === 'feed'
    ? 'feeds'
    : a.sort === 'gasLook'
      ? 'look'
      : a.sort === 'flow'
        ? a.burns
          ? 'burning'
          : 'motion'
        : a.sort === 'force' && a.movesGas
          ? 'motion'
          : null
/** Adds an act to where it belongs: to the selected system or object, else to the only one there is; a force else to the shot. */
export function addWhereItBelongs(kind: string): void {
  const act = actOf(kind)
  const sort = act.sort as Sort
  const shot = shotNow()
  const selected = studio().selected
  const only = <T extends { id: string }>(list: T[]): T | undefined =>
    list.find((e) => e.id === selected) ?? (list.length === 1 ? list[0] : undefined)
  // A trail goes to an object where that is what is selected.
  const followed = act.sort === 'offspring' && (!!act.growth || (!!act.trail && shot.objects.some((o) => o.id === selected)))
  const system =
    !followed && LIST_OF[sort] && (sort !== 'force' || shot.systems.some((s) => s.id === selected)) ? only(shot.systems) : undefined
  const object = LIST_IN[sort] && (sort !== 'offspring' || followed) ? only(shot.objects) : undefined
  // A force goes to a gas where that is what is selected.
  const gas = gasList(act) && (sort !== 'force' || shot.gases.some((g) => g.id === selected)) ? only(shot.gases) : undefined
  const made = newAct(kind)
  const into = (id: string, name: string, list: (s: Shot) => ActDoc[] | undefined) => {
    edit(`a new ${act.title} for ${name}`, (s) => void list(s)?.push(made))
    if (selected !== id) select(id)
    setStudio({ open: made.id })
    showBoard()
  }
  if (system) into(system.id, system.name, (s) => s.systems.filter((x) => x.id === system.id).map((x) => LIST_OF[sort]?.(x))[0])
  else if (object) into(object.id, object.name, (s) => s.objects.filter((x) => x.id === object.id).map((x) => LIST_IN[sort]?.(x))[0])
  else if (gas) into(gas.id, gas.name, (s) => s.gases.find((x) => x.id === gas.id)?.[gasList(act) as 'look'])
  else if (sort === 'force') addForce(kind)
  else if (sort === 'finish') {
    const layer = shot.layers.find((l) => l.id === selected) ?? shot.layers[0]
    into(layer.id, layer.name, (s) => s.layers.find((l) => l.id === layer.id)?.finish)
  } else
    toast(
      `Select ${gasList(act) ? 'a gas' : LIST_IN[sort] && !LIST_OF[sort] ? 'an object' : 'a system'} first: ${act.title} is added to it.`,
      true,
    )
}
const PLACE_OF: Partial<Record<Sort, string>> = {
  source: 'Add to the birth',
  force: 'Add a force',
  contact: 'Add to the contact',
  ending: 'Add what ends a life',
  offspring: 'Add offspring',
  look: 'Add to the look',
  feed: 'Add a source of a gas',
  flow: 'Add to the motion of a gas',
  gasLook: 'Add to the look of a gas',
  reshape: 'Add a reshape step',
  copies: 'Add copies',
  finish: 'Add to the finish',
}
const acts = (): Found[] =>
  ACTS.filter((a) => PLACE_OF[a.sort as Sort]).map((a) => ({
    key: `act ${a.kind}`,
    name: a.title,
    side: PLACE_OF[a.sort as Sort] ?? '',
    adds: true,
    texts: [a.title, `${a.synonyms?.join(' ') ?? ''} ${PLACE_OF[a.sort as Sort]}`, a.help],
    run: () => addWhereItBelongs(a.kind),
  }))

const parameters = (params: Params, of: string, key: string, run: (label: string) => void): Found[] =>
  Object.entries(params).map(([name, p]) => ({
    key: `value ${key} ${name}`,
    name: p.label,
    side: of,
    texts: [p.label, `${p.synonyms?.join(' ') ?? ''} ${of}`, p.help],
    run: () => {
      showBoard()
      run(p.label)
    },
  }))
const ELEMENT_PARAMS: Record<string, Params> = {
  objects: { ...OBJECT_PARAMS, ...MATERIAL_PARAMS },
  systems: SYSTEM_PARAMS,
  lights: LIGHT_PARAMS,
  cameras: CAMERA_PARAMS,
  glows: GLOW_PARAMS,
  masks: MASK_PARAMS,
  layers: LAYER_PARAMS,
  controls: CONTROL_PARAMS,
  gases: GAS_PARAMS,
}
const BOARD = '[aria-label="Board"]'
/** Every parameter of the selected element, its acts' too. */
function parametersOfSelected(): Found[] {
  const found = findElement(shotNow(), studio().selected ?? '')
  if (!found) return []
  const { group, element } = found
  const own = parameters(ELEMENT_PARAMS[group] ?? {}, element.name, element.id, (label) => goToField(label, BOARD))
  const held =
    group === 'systems'
      ? [
          (element as SystemDoc).birth,
          ...sectionsOf(element as SystemDoc).flatMap((s) => [s.movement, s.contact, s.offspring, s.look]),
        ].flat()
      : group === 'objects'
        ? [...(element as ObjectDoc).reshape, ...(element as ObjectDoc).copies, ...(element as ObjectDoc).offspring]
        : group === 'forces'
          ? [shotNow().forces.find((f) => f.id === element.id)?.act].filter((a): a is ActDoc => !!a)
          : group === 'gases'
            ? GAS_LISTS.flatMap((k) => (element as GasDoc)[k])
            : []
  return [
    ...own,
    ...held.flatMap((a) =>
      parameters(actOf(a.kind).params, actOf(a.kind).title, a.id, (label) => {
        setStudio({ open: a.id })
        goToField(label, `${BOARD} [aria-label="${actOf(a.kind).title}"], ${BOARD}`)
      }),
    ),
  ]
}
/** Everything that can be found: elements, values of the selected one, commands, and all that can be added. */
export const everything = (): Found[] => [
  ...elementsOf(shotNow()).map(({ group, element }) => ({
    key: element.id,
    name: element.name,
    side: GROUP_NAMES[group],
    texts: [element.name, GROUP_NAMES[group]],
    run: () => {
      select(element.id)
      showBoard()
    },
  })),
  ...parametersOfSelected(),
  ...commands().map((c) => ({
    key: `command ${c.name}`,
    name: c.name,
    side: c.keys ?? '',
    texts: [c.name, c.synonyms?.join(' ') ?? ''],
    adds: c.name.startsWith('Add '),
    run: c.run,
  })),
  ...acts(),
]
/** The best answers to a query, the best first; without one, elements and commands as they stand. */
export function find(query: string, most = 60, wanted: (x: Found) => boolean | undefined = () => true): Found[] {
  const all = everything().filter(wanted)
  if (!query.trim()) return all.filter((x) => !x.key.startsWith('act ') && !x.key.startsWith('value ')).slice(0, most)
  return best(query, all, (x) => x.texts).slice(0, most)
}
