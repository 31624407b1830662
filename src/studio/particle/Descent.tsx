'use client'
import { useEffect, useState } from 'react'
import { descends } from '../../acts'
import { type Died, type Particle, type Picked, type Settled, whyUnanswered } from '../../protocol'
import type { Shot, SystemDoc } from '../../shot'
import { grouped } from '../../shot'
import { TINTS } from '../charts/ink'
import { pause } from '../playback'
import { setPlayhead, setStudio, useStudio } from '../store'
import { Button, cx } from '../ui'

const named = (shot: Shot, { system, id }: Picked): string =>
  `${shot.systems.find((s) => s.id === system)?.name ?? 'a system that is gone'} ${grouped(id)}`

/** A particle by its name: a click looks at that one. */
function Other({ shot, who, children }: { shot: Shot; who: Picked; children?: React.ReactNode }) {
  return (
    <button
      type="button"
      className="max-w-full truncate rounded-sm bg-fern px-1.5 hover:bg-bark"
      aria-label={`Look at ${named(shot, who)}`}
      onClick={() => setStudio({ particle: { system: who.system, id: who.id } })}
    >
      {children ?? named(shot, who)}
    </button>
  )
}
/** Whom it comes from. */
export function Parent({ known, shot }: { known: Particle; shot: Shot }) {
  if (known.parent) return <Other shot={shot} who={known.parent} />
  return 'a birth of its system'
}
function Kin({ shot, of }: { shot: Shot; of: Particle['children'] }) {
  return of.map(({ system, count, ids }) => (
    <span key={system} className="flex flex-wrap items-center gap-1">
      {grouped(count)} in {shot.systems.find((s) => s.id === system)?.name}:
      {ids.map((id) => (
        <Other key={id} shot={shot} who={{ system, id }}>
          {grouped(id)}
        </Other>
      ))}
      {count > ids.length && <span className="text-moss">and {grouped(count - ids.length)} more</span>}
    </span>
  ))
}
/** Those who come from it and live now; of one that is gone, also those who lived in its last frame. */
export function Children({ known, shot }: { known: Particle; shot: Shot }) {
  const { children, lived } = known
  return (
    <>
      {children.length ? <Kin shot={shot} of={children} /> : 'none that live now'}
      {!!lived?.children.length && (
        <span className="mt-1 flex flex-col gap-1">
          <span className="text-moss">in its last frame, {lived.frame} f:</span>
          <Kin shot={shot} of={lived.children} />
        </span>
      )}
      {shot.systems.some((s) => descends(shot, s)) && <Dead key={`${known.system} ${known.id} ${known.frame}`} known={known} shot={shot} />}
    </>
  )
}
/** Those who came from it and have died: frames do not say whom a particle comes from, so they are computed again when somebody asks. */
function Dead({ known, shot }: { known: Particle; shot: Shot }) {
  const session = useStudio((s) => s.session)
  const [asks, setAsks] = useState(false)
  const [found, setFound] = useState<Settled<Died> | null>(null)
  // What was found is of the shot as it was.
  // biome-ignore lint/correctness/useExhaustiveDependencies: another shot may have others
  useEffect(() => {
    setAsks(false)
    setFound(null)
  }, [shot])
  useEffect(() => {
    if (!session || !asks) return
    const stop = new AbortController()
    void session.inquire({ what: 'died', system: known.system, id: known.id, frame: known.frame }, stop.signal).then(setFound)
    return () => stop.abort()
  }, [session, asks, known.system, known.id, known.frame])
  if (!asks)
    return (
      <Button className="mt-1 h-6! px-2!" onClick={() => setAsks(true)} title="Computes the frames of its life once more">
        Find those that have died
      </Button>
    )
  if (!found) return <span className="text-moss">going through its frames …</span>
  if (found.state !== 'answered') return <span className="text-moss">{whyUnanswered(found)}</span>
  const { children, from, to } = found.value
  return (
    <span className="mt-1 flex flex-col gap-1">
      <span className="text-moss">
        {children.length ? 'dead by now' : 'none that has died'}, {from} f to {to} f{children.length ? ':' : ''}
      </span>
      <Kin shot={shot} of={children} />
    </span>
  )
}
/** Its phases as a band over its whole life, over the same stretch of the page as the chart below; a click goes to that frame. */
export function PhaseBand({ known, system }: { known: Particle; system: SystemDoc }) {
  const [first, last] = [known.path[0]?.frame ?? 0, known.path.at(-1)?.frame ?? 0]
  const frames = Math.max(1, last - first)
  const at = (f: number) => `${((f - first) / frames) * 100}%`
  const stretches = known.phases.map(({ from, phase }, k) => {
    const until = known.phases[k + 1]?.from ?? last
    return { from, until, phase, name: system.phases[phase]?.name ?? 'a phase that is gone' }
  })
  return (
    <div className="relative mr-2.5 mb-1 ml-10 h-6 shrink-0" data-testid="phaseBand" role="group" aria-label="Phases over its life">
      {stretches.map(({ from, until, phase, name }) => (
        <button
          key={from}
          type="button"
          aria-label={`${name}, from ${from} f to ${until} f`}
          title={`${name}: ${from} f to ${until} f`}
          className={cx('absolute inset-y-0 truncate border-r border-night px-1 text-left text-[11px] leading-6 text-night')}
          style={{ left: at(from), width: `${((until - from) / frames) * 100}%`, background: TINTS[phase % TINTS.length] }}
          onClick={() => {
            pause()
            setPlayhead(from)
          }}
        >
          {name}
        </button>
      ))}
      {known.frame >= first && known.frame <= last && (
        <span className="pointer-events-none absolute -inset-y-0.5 w-0.5 bg-ember" style={{ left: `calc(${at(known.frame)} - 1px)` }} />
      )}
    </div>
  )
}
