import { ACTS, actOf, isLine, PRIMITIVES, primitiveOf, references, TEXT_PARAMS, worldMatrix } from '../acts'
import {
  type AnimatedVec3,
  defaultsOf,
  findElement,
  GROUPS,
  type Group,
  type Shape,
  type Shot,
  type SystemDoc,
  sampleNumber,
  timeOf,
  type Vec3,
} from '../shot'
import { fromSide } from '../stage/camera'
import { add } from './adding'
import { toggleLatestBake } from './bakes'
import { toggleBeside, toggleFolded } from './board/place'
import { copyElement, pasteElements } from './clipboard'
import { newAct, newCamera, newControl, newForce, newGas, newGlow, newLight, newObject, newSystem } from './create'
import { duplicateElement } from './duplicate'
import { meshFacts } from './facts'
import { GAS_RECIPES } from './gasRecipes'
import { goToField } from './goTo'
import { importFiles } from './importing'
import { addLayer } from './layers'
import { splitLetters } from './letters'
import { pause, restart, stepFrame, togglePlay } from './playback'
import { RECIPES, type Recipe } from './recipes'
import { edit, redoStep, select, setStudio, shotNow, studio, undoStep } from './store'
import { toast } from './toast'
import { frameSelection, poseNow } from './view/frame'

export const GROUP_NAMES: Record<Group, string> = {
  objects: 'Objects',
  systems: 'Systems',
  gases: 'Gases',
  forces: 'Forces',
  lights: 'Lights',
  glows: 'Glows',
  cameras: 'Cameras',
  masks: 'Masks',
  controls: 'Controls',
  layers: 'Layers',
}

/** Of particles, and of gases. */
export const ALL_RECIPES: readonly Recipe[] = [...RECIPES, ...GAS_RECIPES]
/** What a new system begins from when nobody says it: the selected object, else the only one that is marked as a source. */
function likelySource(): string | null {
  const { objects } = shotNow()
  // An endless floor has no faces to begin from.
  const selected = objects.find((o) => o.id === studio().selected && !(o.shape.kind === 'plane' && o.shape.endless))
  if (selected) return selected.id
  const sources = objects.filter((o) => o.roles.source)
  return sources.length === 1 ? sources[0].id : null
}
export function addSystem(source: string | null = likelySource()): void {
  const { system, look } = newSystem(shotNow(), source)
  add('systems', system, (s) => {
    s.shared.looks.push(look)
    const o = s.objects.find((x) => x.id === source)
    if (o) o.roles.source = true
  })
}
/** A gas; what is selected feeds it, an object or a system. */
export function addGas(): void {
  const shot = shotNow()
  const system = shot.systems.find((s) => s.id === studio().selected)
  const object = system ? null : likelySource()
  const size = system ? 1 : sizeOf(object)
  const near = system ? null : object
  const middle = near ? placeOf(near) : ([0, 0.5, 0] as Vec3)
  const feed = system
    ? newAct('fromParticles', { system: system.id, end: null })
    : object
      ? newAct('fromObject', {
          object,
          end: null,
          reach: Number((size * 0.04).toPrecision(2)),
          breakSize: Number((size * 0.12).toPrecision(2)),
        })
      : null
  add('gases', newGas(shot, feed, middle, size))
}
/** A fog over the whole shot. */
export function addFog(): void {
  const gas = newGas(shotNow(), newAct('fog'), [0, 0, 0], 1, 'Fog')
  add('gases', { ...gas, motion: [], look: [] })
}
/** About how large an object is, m: what recipes measure by. */
function sizeOf(id: string | null): number {
  const o = shotNow().objects.find((x) => x.id === id)
  const b = o && meshFacts(o)?.bounds
  if (!o || !b) return 1
  const m = worldMatrix(o, timeOf(shotNow(), studio().playhead))
  const scale = Math.cbrt(
    Math.abs(m[0] * (m[5] * m[10] - m[6] * m[9]) - m[1] * (m[4] * m[10] - m[6] * m[8]) + m[2] * (m[4] * m[9] - m[5] * m[8])),
  )
  const across = Math.hypot(...b.max.map((v, k) => v - b.min[k])) * scale
  return across > 1e-3 && across < 1e4 ? across : 1
}
/** A recipe at the scale of what is selected, which is what it starts from. */
export function addRecipe(recipe: Recipe): void {
  const source = likelySource()
  if (recipe.onObject && !source) {
    toast(`Select an object first: ${recipe.name} grows on it.`, true)
    return
  }
  const { objects = [], systems, looks, gases = [], offspring = [] } = recipe.make(shotNow(), source, sizeOf(source))
  edit(`the recipe ${recipe.name}`, (s) => {
    s.objects.push(...objects)
    s.systems.push(...systems)
    s.gases.push(...gases)
    s.shared.looks.push(...looks)
    const o = s.objects.find((x) => x.id === source)
    if (o && (systems.length || gases.length)) o.roles.source = true
    o?.offspring.push(...offspring)
  })
  select(gases[0]?.id ?? systems[0]?.id ?? source)
}
export const addPlane = (): void => add('objects', newObject(shotNow(), 'Plane', { kind: 'plane', size: 4, endless: false }))
export const addAnchor = (): void => add('objects', newObject(shotNow(), 'Anchor', { kind: 'anchor' }))
export function addPrimitive(kind: string): void {
  const p = primitiveOf(kind)
  if (p) add('objects', newObject(shotNow(), p.title, { kind, ...defaultsOf(p.params) } as Shape))
}
export const addText = (): void =>
  add('objects', newObject(shotNow(), 'Text', { kind: 'text', ...defaultsOf(TEXT_PARAMS) } satisfies Shape))
export const addGroup = (): void => add('objects', newObject(shotNow(), 'Group', { kind: 'group' }))
export const addControl = (): void => add('controls', newControl(shotNow()))
/** Where an object is in the shot at the playhead. */
function placeOf(id: string): Vec3 {
  const o = shotNow().objects.find((x) => x.id === id)
  const m = o ? worldMatrix(o, timeOf(shotNow(), studio().playhead)) : null
  return m ? [m[3], m[7], m[11]] : [0, 0, 0]
}
/** Where the selected element is in the shot at the playhead; null when nothing with a place is selected. */
function placeOfSelected(): Vec3 | null {
  const shot = shotNow()
  const found = findElement(shot, studio().selected ?? '')
  if (!found) return null
  const t = timeOf(shot, studio().playhead)
  const object = shot.objects.find((o) => o.id === found.element.id)
  if (object) {
    const m = worldMatrix(object, t)
    return [m[3], m[7], m[11]]
  }
  const { place } = found.element as { place?: AnimatedVec3 }
  return place && found.group !== 'cameras' ? ([0, 1, 2].map((a) => sampleNumber(place[a], t)) as Vec3) : null
}
/** A force of the shot; one with a place lands at the selected element. */
export function addForce(kind: string): void {
  const force = newForce(shotNow(), kind)
  const at = actOf(kind).params.place?.type === 'vector' ? placeOfSelected() : null
  if (at) force.act.place = at
  add('forces', force)
}
/** A light; it stands beside the selected element, and shines at it. */
export function addLight(): void {
  const light = newLight(shotNow())
  const at = placeOfSelected()
  if (at) {
    light.place = at.map((v, a) => v + (light.place as Vec3)[a]) as Vec3
    light.aim = at
  }
  add('lights', light)
}
export const addCamera = (): void => add('cameras', newCamera(shotNow()))
/** A glow about the selected object, system or light; along it where that is a path. */
export function addGlow(): void {
  const shot = shotNow()
  const id = studio().selected
  const object = shot.objects.find((o) => o.id === id)
  const line = object && isLine(object.shape)
  const stuck = object ?? shot.systems.find((s) => s.id === id) ?? shot.lights.find((l) => l.id === id && l.kind !== 'around')
  const glow = newGlow(shot)
  add(
    'glows',
    line ? { ...glow, kind: 'line', along: object.id } : { ...glow, follows: stuck?.id ?? null, place: stuck ? [0, 0, 0] : [0, 1, 0] },
  )
}
/** What is drawn next in the View becomes a mask in the picture of the shot's camera. */
export const addMask = (): void => setStudio({ pose: null, outlining: { mask: null, corners: [] } })

/** Makes an object the source of a system: of the selected one, else of the first. */
export function makeSource(objectId: string): void {
  const shot = shotNow()
  const object = shot.objects.find((o) => o.id === objectId)
  if (!object) return
  const chosen = shot.systems.find((s) => s.id === lastSystem) ?? shot.systems[0]
  if (!chosen) {
    addSystem(objectId)
    toast(`${object.name} is the source of a new system`)
    return
  }
  edit(`${object.name} as the source of ${chosen.name}`, (s) => {
    const target = s.systems.find((x) => x.id === chosen.id) as SystemDoc
    if (!target.birth.length) target.birth.push(newAct('steady', { end: null }))
    for (const b of target.birth) {
      b.source = objectId
      b.part = ''
      b.region = ''
    }
    const o = s.objects.find((x) => x.id === objectId)
    if (o) o.roles.source = true
  })
  toast(`${object.name} is now the source of ${chosen.name}`)
}
let lastSystem: string | null = null
export const noteSelection = (id: string | null): void => {
  if (id && shotNow().systems.some((s) => s.id === id)) lastSystem = id
}
export function removeElement(id: string): void {
  const found = findElement(shotNow(), id)
  if (!found) return
  const { group, element } = found
  const refusal =
    element === shotNow().layers[0]
      ? 'The picture’s layer stays: everything is drawn into it. Remove what you do not want to see instead.'
      : group === 'cameras' && shotNow().cameras.length === 1
        ? 'A shot needs at least one camera: add another before you remove this one.'
        : null
  if (refusal) {
    toast(refusal, true)
    return
  }
  edit(`removal of ${element.name}`, (s) => {
    ;(s[group] as { id: string }[]).splice(
      s[group].findIndex((e) => e.id === id),
      1,
    )
    if (group === 'cameras' && s.camera === id) s.camera = s.cameras[0].id
    for (const r of references(s)) {
      if (r.id !== id || r.to === 'element') continue
      // What leads nowhere now starts in the middle, or takes all there are. Where that would be something else, its act is switched off.
      if (r.gone === 'mute' && r.record) r.record.record.muted = true
      r.lead(null)
    }
  })
}
/** Looks at an element alone, or no longer; others of its group are set aside in the View only. */
export function toggleSolo(id: string): void {
  const group = findElement(shotNow(), id)?.group
  if (!group || group === 'cameras' || group === 'masks' || group === 'layers' || group === 'controls') return
  const solo = new Set(studio().solo)
  if (!solo.delete(id)) solo.add(id)
  setStudio({ solo })
}
export function muteElement(id: string): void {
  const found = findElement(shotNow(), id)
  if (found)
    edit(
      `${found.element.name} ${found.element.muted ? 'on' : 'off'}`,
      (s) => void (s[found.group][found.index].muted = !found.element.muted),
    )
}
export function renameElement(id: string, name: string): void {
  const found = findElement(shotNow(), id)
  if (found && name.trim() && name !== found.element.name)
    edit(`name of ${name.trim()}`, (s) => void (s[found.group][found.index].name = name.trim().slice(0, 200)))
}
export function chooseFiles(): void {
  const input = document.createElement('input')
  input.type = 'file'
  input.multiple = true
  input.accept = '.obj,.glb,.ply,.stl,.svg,.png,.jpg,.jpeg,.webp,.hdr,.exr,.csv,.tsv,.txt,.mov,.mp4,.m4v,.webm,.mkv,.avi,.ttf,.otf,.woff'
  input.onchange = () => void importFiles([...(input.files ?? [])])
  input.click()
}
export interface Command {
  name: string
  keys?: string
  /** What else the trade calls it. */
  synonyms?: readonly string[]
  run: () => void
}
/** Opens the settings of the shot at one of them. */
const setting = (label: string, ...synonyms: string[]): Command => ({
  name: `${label} of the shot …`,
  synonyms,
  run: () => {
    setStudio({ dialog: 'shot' })
    goToField(label)
  },
})
/** Everything that Ctrl+K finds besides elements, and what the list of shortcuts shows. Letters are the first of our own word. */
export function commands(): Command[] {
  const selected = studio().selected
  return [
    { name: 'Play or pause', keys: 'Space', run: togglePlay },
    { name: 'Restart', keys: 'R', run: restart },
    { name: 'One frame back', keys: '←', run: () => stepFrame(-1) },
    { name: 'One frame on', keys: '→', run: () => stepFrame(1) },
    { name: 'Undo', keys: 'Ctrl Z', run: undoStep },
    { name: 'Redo', keys: 'Ctrl Shift Z', run: redoStep },
    { name: 'Look through the shot’s camera', keys: 'C', run: () => setStudio({ pose: null }) },
    { name: 'Frame the selection', keys: 'F', run: frameSelection },
    { name: 'Only the View', keys: 'V', run: () => setStudio({ viewOnly: !studio().viewOnly }) },
    {
      name: 'White and less than black: mark what is cut off',
      keys: 'W',
      synonyms: ['clipping', 'clipped', 'overexposed', 'zebra', 'negative'],
      run: () => setStudio({ marks: !studio().marks }),
    },
    { name: 'Handles and labels on or off', keys: 'H', run: () => setStudio({ overlays: !studio().overlays }) },
    { name: 'Fold the board', keys: 'B', run: toggleFolded },
    { name: 'Board beside or under the View', run: toggleBeside },
    { name: 'Mute the selected element', keys: 'M', run: () => selected && muteElement(selected) },
    { name: 'Look at the selected element alone', keys: 'A', run: () => selected && toggleSolo(selected) },
    { name: 'Copy the selected element', keys: 'Ctrl C', run: () => selected && void copyElement(selected) },
    { name: 'Paste elements', keys: 'Ctrl V', run: () => void pasteElements() },
    { name: 'Play every frame, or at true speed', run: () => setStudio({ everyFrame: !studio().everyFrame }) },
    { name: 'Duplicate the selected element', keys: 'D', run: () => selected && duplicateElement(selected) },
    { name: 'Duplicate the selected element with its seeds', run: () => selected && duplicateElement(selected, 'same') },
    { name: 'Duplicate the selected element as a companion', run: () => selected && duplicateElement(selected, 'companion') },
    { name: 'Remove the selected element', keys: 'Delete', run: () => selected && removeElement(selected) },
    { name: 'One object a letter of the selected text', run: () => selected && void splitLetters(selected) },
    {
      name: 'Import a file',
      keys: 'I',
      synonyms: ['open', 'load', 'mesh', 'model', 'obj', 'glb', 'svg', 'font', 'hdr', 'exr', 'environment'],
      run: chooseFiles,
    },
    setting('Frame rate', 'fps', 'frames per second', 'timing'),
    setting('Last frame', 'duration', 'length', 'range', 'end'),
    setting('Width', 'resolution', 'size of the picture'),
    setting('Height', 'resolution', 'size of the picture'),
    setting('Background', 'backdrop', 'surroundings', 'sky colour', 'environment'),
    setting('Sky', 'stars', 'moon', 'sun', 'clouds', 'horizon', 'environment'),
    setting('Even light', 'ambient', 'surroundings', 'environment'),
    setting('Warm start', 'pre-roll', 'preroll', 'warm-up', 'simulate before'),
    setting('Loops', 'seamless', 'cycle', 'repeat', 'tileable', 'endless'),
    setting('Substeps', 'accuracy', 'sub-frames', 'quality', 'time step'),
    setting('Seed', 'random', 'variation'),
    {
      name: 'Render …',
      synonyms: ['export', 'output', 'png', 'movie', 'video', 'image sequence', 'save frames'],
      run: () => {
        pause()
        setStudio({ dialog: 'render' })
      },
    },
    {
      name: 'Preview movie',
      synonyms: ['quick movie', 'video', 'review', 'rushes'],
      run: () => setStudio({ dialog: 'preview' }),
    },
    {
      name: 'Plane through tracked points, or their scale …',
      synonyms: ['tracking', 'matchmove', 'solve', 'ground plane', 'set scale', 'survey'],
      run: () => setStudio({ dialog: 'tracked' }),
    },
    {
      name: 'Measure a distance',
      synonyms: ['ruler', 'how far', 'length'],
      run: () => setStudio({ measure: [], picking: null, choosing: false }),
    },
    {
      name: 'Another view beside the View, or none',
      synonyms: ['split view', 'two views', 'side by side', 'second view', 'quad view'],
      run: () => setStudio({ second: studio().second ? null : { pose: studio().pose ? null : fromSide(poseNow(), [0, 0, 1]) } }),
    },
    {
      name: 'The latest bake beside the View, or none',
      synonyms: ['compare', 'before and after', 'cache', 'versions', 'difference'],
      run: toggleLatestBake,
    },
    { name: 'Safe frame', synonyms: ['action safe', 'title safe', 'guides'], run: () => setStudio({ safe: !studio().safe }) },
    { name: 'Saved versions …', run: () => setStudio({ dialog: 'versions' }) },
    { name: 'All shortcuts …', keys: '?', run: () => setStudio({ dialog: 'shortcuts' }) },
    { name: 'Add a system', synonyms: ['emitter', 'particles', 'new', 'create'], run: () => addSystem() },
    { name: 'Add fog', synonyms: ['haze', 'mist', 'atmosphere', 'volumetric light', 'god rays', 'new', 'create'], run: addFog },
    { name: 'Add a gas', synonyms: ['smoke', 'fire', 'fluid', 'volume', 'pyro', 'new', 'create'], run: addGas },
    ...ALL_RECIPES.map((r) => ({
      name: `Add a recipe: ${r.name}`,
      synonyms: [...r.synonyms, 'preset', 'template', 'effect'],
      run: () => addRecipe(r),
    })),
    { name: 'Add a plane', run: addPlane },
    ...PRIMITIVES.map((x) => ({ name: `Add a ${x.title.toLowerCase()}`, synonyms: x.synonyms, run: () => addPrimitive(x.kind) })),
    { name: 'Add an anchor', synonyms: ['null', 'empty', 'locator', 'point'], run: addAnchor },
    { name: 'Add a text', run: addText },
    { name: 'Add a group', run: addGroup },
    { name: 'Add a control', synonyms: ['slider', 'variable', 'custom value', 'global'], run: addControl },
    { name: 'Add a light', run: addLight },
    { name: 'Add a glow', synonyms: ['flare', 'halo', 'glare', 'star', 'rays', 'energy line', 'neon', 'lens flare'], run: addGlow },
    { name: 'Add a camera', run: addCamera },
    { name: 'Add a layer', synonyms: ['composite', 'group', 'blend mode', 'pass'], run: () => void addLayer() },
    { name: 'Add a mask', synonyms: ['roto', 'matte', 'holdout', 'occlusion', 'hide behind'], run: addMask },
    ...ACTS.filter((a) => a.sort === 'force').map((a) => ({
      name: `Add a force on all systems: ${a.title}`,
      synonyms: a.synonyms,
      run: () => addForce(a.kind),
    })),
  ]
}
export const elementsOf = (shot: Shot) => GROUPS.flatMap((group) => shot[group].map((element) => ({ group, element })))
