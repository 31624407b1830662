'use client'
import type { SystemDoc } from '../../shot'
import { LifeStrip } from '../life/LifeStrip'
import { useStudio } from '../store'
import { PhaseColumn, PhaseMap } from './PhaseColumn'
import { BirthColumn, LookColumn, WholeColumn } from './SystemColumns'

/** More phases than this have a map over them: they do not fit beside each other. */
const SHOWN_AT_ONCE = 3

/** The life of a system: birth, the whole life, its phases, the look. Each column is rendered again only for what it shows. */
export function SystemBoard({ system }: { system: SystemDoc }) {
  const beside = useStudio((s) => s.beside)
  if (beside)
    return (
      <div className="min-h-0 flex-1 overflow-y-auto">
        <LifeStrip id={system.id} />
        <BirthColumn system={system} />
        <WholeColumn system={system} />
        {system.phases.map((p) => (
          <PhaseColumn key={p.id} system={system} phase={p} />
        ))}
        <LookColumn system={system} />
      </div>
    )
  return (
    <div className="flex min-h-0 flex-1 flex-col">
      <LifeStrip id={system.id} />
      <div className="flex min-h-0 flex-1">
        <BirthColumn system={system} />
        <div className="flex min-h-0 min-w-0 flex-1 flex-col border-bark border-r">
          <WholeColumn system={system} />
          {system.phases.length > SHOWN_AT_ONCE && (
            <PhaseMap
              system={system}
              onGo={(id) => document.getElementById(`phase-${id}`)?.scrollIntoView({ behavior: 'smooth', inline: 'nearest' })}
            />
          )}
          <div className="flex min-h-0 flex-1 overflow-x-auto">
            {system.phases.map((p) => (
              <div key={p.id} id={`phase-${p.id}`} className="flex min-h-0 min-w-[248px] flex-1 basis-0">
                <PhaseColumn system={system} phase={p} />
              </div>
            ))}
          </div>
        </div>
        <LookColumn system={system} />
      </div>
    </div>
  )
}
