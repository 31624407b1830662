'use client'
import { ChevronDown, Rocket } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { memo, useState } from 'react'
import { type Act, actOf, actOfSort, readerOf, SYSTEM_PARAMS } from '../../acts'
import {
  type ActDoc,
  actsIn,
  frameAt,
  grouped,
  newId,
  type Section,
  type Shot,
  type SystemDoc,
  sampleNumber,
  sampleVec3,
  sectionAt,
  valueOf,
  varyOf,
} from '../../shot'
import { BOOSTS } from '../rehearsal'
import { edit, select, setStudio, useShot, useStudio } from '../store'
import { cx, IconButton, Menu, menuContent, menuItem, NameInput, Select } from '../ui'
import { show, showWithUnit } from '../units'
import { AddAct } from './AddAct'
import { ActCard } from './Card'
import { Column, Empty, Group } from './Column'
import { ParamCard } from './ParamCard'
import { Copies } from './Reshape'
import { sameSystem } from './same'
import { rec, useT } from './time'

type Key = keyof Section
/** Sorts of acts by the section that holds them. */
const SECTION: Record<string, Key> = { force: 'movement', contact: 'contact', ending: 'contact', offspring: 'offspring', look: 'look' }

/** Acts for particles: growth needs a surface. */
export const ofParticles = (a: Act): boolean => a.sort !== 'offspring' || !a.growth
/** A count of the frame that is shown; only it is drawn again with every picture. */
export function Count({ of, what, phase }: { of: string; what: 'alive' | 'born'; phase?: number }) {
  const n = useStudio((s) => (phase === undefined ? s.stats[of]?.[what] : s.stats[of]?.phases?.[phase]) ?? 0)
  return <b className="font-semibold text-mist">{grouped(n)}</b>
}
/** Births in the View many times as many, or a part: for a quick look, never saved. */
function Boost() {
  const boost = useStudio((s) => s.boost)
  return (
    <Menu>
      <DropdownMenu.Trigger asChild>
        <IconButton name={boost === 1 ? 'Preview boost of births' : `Preview boost: births × ${boost}`} on={boost !== 1}>
          <Rocket size={14} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={menuContent} align="end" collisionPadding={8}>
          <p className="max-w-56 px-3 py-1 text-moss">Births of all systems, in the View only: never saved, never rendered.</p>
          {BOOSTS.map((b) => (
            <DropdownMenu.Item key={b.value} className={menuItem} onSelect={() => setStudio({ boost: b.value })}>
              {b.label} <span className="ml-auto pl-4 text-moss">{boost === b.value ? 'now' : ''}</span>
            </DropdownMenu.Item>
          ))}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
}
/** Whose look it is: its name, who else uses it, and a way to one of its own. */
const LookUse = memo(
  function LookUse({ system }: { system: SystemDoc }) {
    const looks = useShot((s) => s.shared.looks)
    const systems = useShot((s) => s.systems)
    const [naming, setNaming] = useState(false)
    const look = looks.find((l) => system.whole.look.some((a) => a.look === l.id))
    if (!look) return null
    const others = systems
      .filter((s) => s.id !== system.id && actsIn(s, 'look', 'offspring').some((a) => a.look === look.id))
      .map((s) => s.name)
    const detach = () =>
      edit(`a look of its own for ${system.name}`, (s) => {
        const own = { ...structuredClone(look), id: newId('look'), name: `${look.name} of ${system.name}`.slice(0, 200) }
        s.shared.looks.push(own)
        const x = s.systems.find((y) => y.id === system.id)
        for (const a of x ? actsIn(x, 'look', 'offspring') : []) if (a.look === look.id) a.look = own.id
      })
    const rename = (name: string | null) => {
      setNaming(false)
      if (name)
        edit(`name of the look ${name}`, (s) => {
          const l = s.shared.looks.find((y) => y.id === look.id)
          if (l) l.name = name
        })
    }
    return (
      <div className="mt-1 flex flex-col gap-1 px-2 text-moss">
        {naming ? (
          <NameInput label="Name of the look" value={look.name} className="h-6 text-mist" onDone={rename} />
        ) : (
          <button type="button" className="text-left hover:text-mist" title="Double-click to rename" onDoubleClick={() => setNaming(true)}>
            The look <b className="font-semibold text-mist">{look.name}</b>{' '}
            {others.length ? <>is shared with {others.join(', ')}.</> : 'is used here alone.'}
          </button>
        )}
        {others.length > 0 && (
          <button type="button" className="w-fit rounded-md border border-twig px-1.5 text-mist hover:bg-fern" onClick={detach}>
            A look of its own
          </button>
        )}
      </div>
    )
  },
  sameSystem('name', 'whole'),
)
/** The simulated whole: in whose space it runs, where it is put afterwards, how often it stands. */
const Whole = memo(
  function Whole({ system }: { system: SystemDoc }) {
    const objects = useShot((s) => s.objects)
    const t = useT(system.place, system.rotate, system.scale)
    const find = (s: Shot) => s.systems.find((x) => x.id === system.id)
    const xyz = (v: SystemDoc['place']) =>
      sampleVec3(v, t)
        .map((x) => show(x))
        .join(', ')
    return (
      <>
        <Group over name="The whole">
          <ParamCard
            id={`${system.id}-whole`}
            title="Put afterwards"
            owner={system.name}
            params={SYSTEM_PARAMS}
            names={['place', 'rotate', 'scale']}
            record={rec(system)}
            find={(s) => rec(find(s))}
            sentence={
              <>
                Moved by <b>{xyz(system.place)}</b> m, rotated <b>{xyz(system.rotate)}</b>°, scaled <b>{xyz(system.scale)}</b>.
              </>
            }
          />
          <div className="flex items-center gap-2 px-2 text-moss">
            <span className="shrink-0">Runs in</span>
            <Select
              label="Space of the simulation"
              value={system.space ?? ''}
              options={[{ value: '', label: 'the shot' }, ...objects.map((o) => ({ value: o.id, label: `the space of ${o.name}` }))]}
              onChange={(v) =>
                edit(`space of ${system.name}`, (s) => {
                  const x = find(s)
                  if (x) x.space = v || null
                })
              }
            />
          </div>
        </Group>
        <Copies of={system.copies} list={(s) => find(s)?.copies} />
      </>
    )
  },
  sameSystem('name', 'place', 'rotate', 'scale', 'space', 'copies'),
)
/** The forces of the shot that reach a system; they act before its own. */
function FromShot({ id }: { id: string }) {
  const forces = useShot((s) => s.forces)
  const reaching = forces.filter((f) => f.reaches === 'all' || f.reaches.includes(id))
  if (!reaching.length) return null
  return (
    <p className="flex flex-wrap items-baseline gap-x-1.5 rounded-md px-2 py-0.5 text-moss">
      From the shot:
      {reaching.map((f) => {
        const share = f.shares.find((x) => x.system === id)?.share ?? 100
        return (
          <button
            key={f.id}
            type="button"
            className={cx('text-mist underline decoration-twig underline-offset-3', (f.muted || f.act.muted) && 'line-through opacity-60')}
            onClick={() => select(f.id)}
          >
            {f.name}
            {share !== 100 && ` ${show(share)} %`}
          </button>
        )
      })}
    </p>
  )
}
/** What a particle weighs and how fast its time goes. */
function Body({ system }: { system: SystemDoc }) {
  const t = useT(system.mass, system.timeScale)
  const [kg, vary] = [sampleNumber(valueOf(system.mass), t), varyOf(system.mass)]
  return (
    <ParamCard
      id={`${system.id}-body`}
      title="Mass and time"
      owner={system.name}
      params={SYSTEM_PARAMS}
      names={['mass', 'timeScale']}
      record={rec(system)}
      find={(s) => rec(finder(system.id)(s))}
      sentence={
        <>
          Weighs <b>{showWithUnit(kg, { unit: 'kg' }, 24)}</b>
          {vary > 0 && <> ± {showWithUnit(vary, { unit: 'kg' }, 24)}</>}; time goes by at <b>{show(sampleNumber(system.timeScale, t))} %</b>
          .
        </>
      }
    />
  )
}
export const finder =
  (id: string) =>
  (s: Shot): SystemDoc | undefined =>
    s.systems.find((x) => x.id === id)
export const cards = (acts: ActDoc[], list: (s: Shot) => ActDoc[] | undefined, wide?: boolean) =>
  acts.map((a) => (
    <div key={a.id} data-below={actOf(a.kind).title}>
      <ActCard act={a} list={list} wide={wide} />
    </div>
  ))
export const ids = (acts: ActDoc[]) => acts.map((a) => a.id)
/** Adds to the section of the whole life, or of a phase. */
export const adder = (id: string, where: string) => (act: ActDoc, sort: string) =>
  edit(`a new ${actOf(act.kind).title}`, (s) => {
    const target = finder(id)(s)
    if (target) sectionAt(target, where)?.[SECTION[sort]].push(act)
  })

export const BirthColumn = memo(function BirthColumn({ system }: { system: SystemDoc }) {
  const find = finder(system.id)
  const side = useShot((shot) => {
    const sources = system.birth.filter((a) => !a.muted)
    if (!sources.length) return ''
    const start = Math.min(...sources.map((a) => actOfSort(a.kind, 'source').starts(readerOf(a))))
    const end = Math.max(...sources.map((a) => actOfSort(a.kind, 'source').ends(readerOf(a))))
    return `${Math.round(frameAt(shot, start))}–${Math.round(Math.min(shot.range.last, frameAt(shot, end)))} f`
  })
  return (
    <Column
      className="w-[272px] shrink-0"
      title="Birth"
      side={side}
      below={ids(system.birth)}
      tools={
        <>
          <span className="live text-moss">
            <Count of={system.id} what="born" /> born /f
          </span>
          <Boost />
          <AddAct
            name="Add a birth"
            sorts={['source']}
            onAdd={(act) => edit(`a new ${actOf(act.kind).title}`, (s) => void find(s)?.birth.push(act))}
          />
        </>
      }
    >
      <div className="flex flex-col gap-1">
        {cards(system.birth, (s) => find(s)?.birth)}
        {!system.birth.length && <Empty>Nothing is born. Add a steady rate or a burst with +.</Empty>}
      </div>
    </Column>
  )
}, sameSystem('birth'))

export const WholeColumn = memo(
  function WholeColumn({ system }: { system: SystemDoc }) {
    const find = finder(system.id)
    const all = [...system.whole.movement, ...system.whole.contact, ...system.whole.offspring]
    // The hard case: a tall card open in the phase. The whole life then keeps only its head, which names what it holds.
    const inPhase = useStudio(
      (s) => !s.beside && system.phases.some((p) => [...p.movement, ...p.contact, ...p.offspring, ...p.turns].some((a) => a.id === s.open)),
    )
    const here = useStudio((s) => all.some((a) => a.id === s.open))
    const beside = useStudio((s) => s.beside)
    // Beside several phases it keeps to its head, until it is opened.
    const many = system.phases.length > 1
    const [shown, setShown] = useState(false)
    const folded = !beside && (inPhase || (many && !here && !shown))
    return (
      <Column
        className={cx(
          'flex-none border-r-0! border-b',
          folded ? 'max-h-8 overflow-hidden' : here ? 'max-h-[84%]' : many ? 'max-h-[55%]' : 'max-h-[70%]',
        )}
        title="Whole life"
        side={folded ? all.map((a) => actOf(a.kind).title).join(', ') : undefined}
        below={ids(all)}
        tools={
          <>
            <AddAct
              name="Add to the whole life"
              sorts={['force', 'contact', 'ending', 'offspring']}
              fits={ofParticles}
              onAdd={adder(system.id, 'whole')}
            />
            {many && !beside && (
              <IconButton name={folded ? 'Show the whole life' : 'Fold the whole life'} onClick={() => setShown(folded)}>
                <ChevronDown size={14} strokeWidth={1.5} className={folded ? '-rotate-90' : ''} />
              </IconButton>
            )}
          </>
        }
      >
        <div className="grid grid-cols-[repeat(auto-fit,minmax(260px,1fr))] gap-x-2">
          <Group name="Movement">
            <FromShot id={system.id} />
            {cards(system.whole.movement, (s) => find(s)?.whole.movement, true)}
            {!system.whole.movement.length && <Empty>No force of their own moves them.</Empty>}
            <Body system={system} />
          </Group>
          <Group name="Contact">
            {cards(system.whole.contact, (s) => find(s)?.whole.contact, true)}
            {!system.whole.contact.length && <Empty>They pass through everything.</Empty>}
          </Group>
          {system.whole.offspring.length > 0 && (
            <Group name="Offspring" className="col-span-full">
              {cards(system.whole.offspring, (s) => find(s)?.whole.offspring, true)}
            </Group>
          )}
        </div>
      </Column>
    )
  },
  sameSystem('name', 'whole', 'phases', 'mass', 'timeScale'),
)

export const LookColumn = memo(
  function LookColumn({ system }: { system: SystemDoc }) {
    const find = finder(system.id)
    return (
      <Column
        className="w-[236px] shrink-0"
        title="Look"
        below={ids(system.whole.look)}
        tools={<AddAct name="Add to the look" sorts={['look']} onAdd={adder(system.id, 'whole')} />}
      >
        <div className="flex flex-col gap-1">
          {cards(system.whole.look, (s) => find(s)?.whole.look)}
          {!system.whole.look.length && <Empty>White dots. Add a dash, colour or blend with +.</Empty>}
        </div>
        <LookUse system={system} />
        <Whole system={system} />
      </Column>
    )
  },
  sameSystem('name', 'whole', 'place', 'rotate', 'scale', 'space', 'copies'),
)
