'use client'
import { ArrowLeft, ArrowRight, Copy, Ellipsis, Pencil, Plus, Trash2 } from 'lucide-react'
import { DropdownMenu } from 'radix-ui'
import { memo, useState } from 'react'
import { actOf } from '../../acts'
import { grouped, type PhaseDoc, type Shot, type SystemDoc, sectionAt } from '../../shot'
import { useFps } from '../fields/fps'
import { NumberField } from '../fields/NumberField'
import { edit, useStudio } from '../store'
import { IconButton, Menu, menuContent, menuItem, NameInput } from '../ui'
import { AddAct } from './AddAct'
import { Column, Empty, Group } from './Column'
import { addPhase, changePhase, deletePhase, duplicatePhase, movePhase } from './phases'
import { adder, Count, cards, finder, ids, ofParticles } from './SystemColumns'
import { sameSystem } from './same'

/** One stretch of a life: what moves and stops particles in it, and the turns that lead out of it. */
export const PhaseColumn = memo(function PhaseColumn({ system, phase }: { system: SystemDoc; phase: PhaseDoc }) {
  const [naming, setNaming] = useState(false)
  const many = system.phases.length > 1
  const section = (s: Shot) => {
    const found = finder(system.id)(s)
    return found && (sectionAt(found, phase.id) as PhaseDoc | undefined)
  }
  const rename = (name: string | null) => {
    setNaming(false)
    if (name) changePhase(system.id, phase.id, `name of the phase ${name}`, (p) => void (p.name = name))
  }
  return (
    <Column
      className="min-h-0 flex-1"
      label={phase.name}
      title={
        naming ? (
          <NameInput label="Name of the phase" value={phase.name} className="h-6 w-28" onDone={rename} />
        ) : (
          <button type="button" title="Double-click to rename" onDoubleClick={() => setNaming(true)}>
            {phase.name}
          </button>
        )
      }
      side={
        <>
          <Count of={system.id} what="alive" phase={many ? system.phases.indexOf(phase) : undefined} /> now
        </>
      }
      below={ids([...phase.movement, ...phase.contact, ...phase.offspring, ...phase.turns])}
      tools={
        <>
          <AddAct
            name={`Add to ${phase.name}`}
            sorts={['force', 'contact', 'ending', 'offspring']}
            fits={ofParticles}
            onAdd={adder(system.id, phase.id)}
          />
          <PhaseMenu system={system} phase={phase} onName={() => setNaming(true)} />
        </>
      }
    >
      <Group name="Movement" over={many}>
        {cards(phase.movement, (s) => section(s)?.movement, !many)}
        {!phase.movement.length && <Empty>Nothing beyond the whole life. Add with +.</Empty>}
        {many && phase.movement.length > 0 && <SetsIn system={system} phase={phase} />}
      </Group>
      {phase.contact.length > 0 && (
        <Group name="Contact" over={many}>
          {cards(phase.contact, (s) => section(s)?.contact, !many)}
        </Group>
      )}
      {phase.offspring.length > 0 && (
        <Group name="Offspring" over={many}>
          {cards(phase.offspring, (s) => section(s)?.offspring, !many)}
        </Group>
      )}
      <Group
        name="Turns"
        over={many}
        tools={
          <AddAct
            name={`Add a turn to ${phase.name}`}
            sorts={['turn']}
            onAdd={(act) => edit(`a new ${actOf(act.kind).title}`, (s) => void section(s)?.turns.push(act))}
          />
        }
      >
        {cards(phase.turns, (s) => section(s)?.turns, !many)}
        {!phase.turns.length && <Empty>{many ? 'Nothing leads out of it.' : 'None: this is all of the life.'}</Empty>}
        <Taken system={system.id} turns={phase.turns.map((t) => t.id)} />
      </Group>
    </Column>
  )
}, sameSystem('phases'))

/** How many have just turned: a count of the frame that is shown. */
function Taken({ system, turns }: { system: string; turns: string[] }) {
  const n = useStudio((s) => turns.reduce((sum, id) => sum + (s.stats[system]?.turns?.[id] ?? 0), 0))
  return n > 0 ? <span className="live px-2 text-moss">{grouped(n)} turned in this frame</span> : null
}
function SetsIn({ system, phase }: { system: SystemDoc; phase: PhaseDoc }) {
  const fps = useFps()
  return (
    <span className="flex items-center gap-2 px-2 text-moss">
      Sets in over
      <NumberField
        className="w-20"
        label="Sets in over"
        value={phase.blend}
        fps={fps}
        spec={{ unit: 's', min: 0, max: 3600, soft: [0, 2] }}
        onChange={(v, gesture) =>
          edit(
            'how a phase sets in',
            (s) => {
              const p = finder(system.id)(s)?.phases.find((x) => x.id === phase.id)
              if (p) p.blend = v
            },
            gesture,
          )
        }
      />
    </span>
  )
}
function PhaseMenu({ system, phase, onName }: { system: SystemDoc; phase: PhaseDoc; onName: () => void }) {
  const at = system.phases.indexOf(phase)
  const others = system.phases.filter((p) => p.id !== phase.id)
  return (
    <Menu>
      <DropdownMenu.Trigger asChild>
        <IconButton name={`More for the phase ${phase.name}`}>
          <Ellipsis size={15} strokeWidth={1.5} />
        </IconButton>
      </DropdownMenu.Trigger>
      <DropdownMenu.Portal>
        <DropdownMenu.Content className={menuContent} align="end" collisionPadding={8}>
          <DropdownMenu.Item className={menuItem} onSelect={() => addPhase(system.id)}>
            <Plus size={14} strokeWidth={1.5} /> Add a phase
          </DropdownMenu.Item>
          <DropdownMenu.Item className={menuItem} onSelect={() => setTimeout(onName)}>
            <Pencil size={14} strokeWidth={1.5} /> Rename
          </DropdownMenu.Item>
          <DropdownMenu.Item className={menuItem} onSelect={() => duplicatePhase(system.id, phase.id)}>
            <Copy size={14} strokeWidth={1.5} /> Duplicate with its turns
          </DropdownMenu.Item>
          {at > 0 && (
            <DropdownMenu.Item className={menuItem} onSelect={() => movePhase(system.id, phase.id, -1)}>
              <ArrowLeft size={14} strokeWidth={1.5} /> Move earlier
            </DropdownMenu.Item>
          )}
          {at < others.length && (
            <DropdownMenu.Item className={menuItem} onSelect={() => movePhase(system.id, phase.id, 1)}>
              <ArrowRight size={14} strokeWidth={1.5} /> Move later
            </DropdownMenu.Item>
          )}
          {others.length > 0 && (
            <>
              <DropdownMenu.Separator className="my-1 border-bark border-t" />
              <p className="px-3 py-0.5 text-moss">Delete it; what led here</p>
              {others.map((p) => (
                <DropdownMenu.Item key={p.id} className={menuItem} onSelect={() => deletePhase(system.id, phase.id, p.id)}>
                  <Trash2 size={14} strokeWidth={1.5} /> goes to {p.name}
                </DropdownMenu.Item>
              ))}
              <DropdownMenu.Item className={menuItem} onSelect={() => deletePhase(system.id, phase.id, null)}>
                <Trash2 size={14} strokeWidth={1.5} /> is taken out as well
              </DropdownMenu.Item>
            </>
          )}
        </DropdownMenu.Content>
      </DropdownMenu.Portal>
    </Menu>
  )
}
/** With many phases: all of them by name, what leads where, and a way to each. */
export const PhaseMap = memo(function PhaseMap({ system, onGo }: { system: SystemDoc; onGo: (id: string) => void }) {
  const nameOf = (id: unknown) => system.phases.find((p) => p.id === id)?.name
  return (
    <nav aria-label="Phases" className="flex h-7 shrink-0 items-center gap-3 overflow-x-auto border-bark border-b px-3">
      {system.phases.map((p, k) => (
        <button key={p.id} type="button" className="flex shrink-0 items-center gap-1 text-moss hover:text-mist" onClick={() => onGo(p.id)}>
          <b className="font-semibold text-mist">{p.name}</b>
          <Count of={system.id} what="alive" phase={k} />
          {[...new Set(p.turns.filter((t) => !t.muted).flatMap((t) => nameOf(t.to) ?? []))].map((to) => (
            <span key={to}>→ {to}</span>
          ))}
        </button>
      ))}
    </nav>
  )
}, sameSystem('phases'))
