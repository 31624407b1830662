import type { BirthPlan, Mesh } from '../engine'
import { type ActDoc, frameAt, isKeyed, modulatorsOf, type ObjectDoc, type Shot, type SystemDoc } from '../shot'
import type { CompileContext } from './compileContext'
import { seedOf, unmuted, type Where } from './forcePlan'
import { parentsOf } from './places'
import { type Reads, readerOf } from './reader'
import { namedBy } from './references'
import { actOfSort } from './registry'
import type { launchParams } from './sources/launch'
import { warmFrames } from './touched'

/**
 * Metres that an object's place has gone from the first frame until t: the sum of straight pieces from substep to substep, the same
 * whoever asked before. Null stands still.
 */
function pathOf(object: ObjectDoc | null, step: number, where: Where): (t: number) => number {
  if (!object) return () => 0
  const sums = [0]
  let last: [number, number, number] | null = null
  const place = (t: number): [number, number, number] => {
    const m = where(object, t)
    return [m[3], m[7], m[11]]
  }
  const far = (a: readonly number[], b: readonly number[]) => Math.sqrt((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2 + (a[2] - b[2]) ** 2)
  return (t) => {
    const n = Math.max(0, Math.floor(t / step + 1e-9))
    last ??= place(0)
    while (sums.length <= n) {
      const next = place(sums.length * step)
      sums.push(sums[sums.length - 1] + far(last, next))
      last = next
    }
    const rest = t - n * step
    return rest > 1e-9 ? sums[n] + far(place(n * step), place(t)) : sums[n]
  }
}

/**
 * When the births of a moving source all lie before it moves or behind it: what to say of it. Asked of keys alone, of the source and of all
 * that it is parented to; modulators move all the time.
 */
function missedMove(shot: Shot, object: ObjectDoc, starts: number, ends: number): string | null {
  let [from, to] = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (const o of [object, ...parentsOf(object)]) {
    for (const v of [...o.place, ...o.rotate, ...o.scale]) {
      if (modulatorsOf(v).some((m) => !m.muted)) return null
      if (!isKeyed<number>(v)) continue
      if (v.loop && v.loop !== 'hold') return null
      const keys = [...v.keys].sort((a, b) => a.t - b.t)
      keys.forEach((k, i) => {
        const next = keys[i + 1]
        if (!next || next.v === k.v) return
        from = Math.min(from, k.t)
        to = Math.max(to, next.t)
      })
    }
  }
  const f = (t: number) => `${Math.round(frameAt(shot, t))} f`
  if (from > to) return null
  if (ends <= from) return `ends at ${f(ends)}, before ${object.name} starts to move at ${f(from)}: move one of the two in time`
  if (starts >= to) return `begins at ${f(starts)}, after ${object.name} has stopped at ${f(to)}: move one of the two in time`
  return null
}

/** The births of one act of a system. `forces`: of the system, for who keeps to the source afterwards. */
export function birthPlan(c: CompileContext, s: SystemDoc, a: ActDoc, forces: readonly ActDoc[]): BirthPlan {
  const { shot } = c
  const act = actOfSort(a.kind, 'source')
  const early = shot.warm > 0 && !shot.loop ? (act.runsWarm?.(readerOf(a)) ?? []) : []
  const beginning = -warmFrames(shot) * c.secondsPerFrame
  const p = readerOf(early.length ? { ...a, ...Object.fromEntries(early.map((k: string) => [k, beginning])) } : a)
  const sourceId = p.text('source')
  const object = shot.objects.find((o) => o.id === sourceId)
  const source = object && !object.muted ? c.indexOf(object.id) : -1
  const system = sourceId ? shot.systems.findIndex((x) => x.id === sourceId) : -1
  reportSource(c, s, act.title, p, { object, source, system })
  // Who keeps to the object afterwards need not be born while it moves.
  const keeps = object !== undefined && forces.some((f) => namedBy(f).includes(object.id))
  const missed = object && !object.muted && !keeps ? missedMove(shot, object, act.starts(p), act.ends(p)) : null
  if (missed) c.problems.push({ element: s.id, message: `${act.title} of ${s.name} ${missed}` })
  const on = p.choice('from')
  const isGrown = source >= 0 && (on === 'tips' || on === 'lines')
  const travelled = pathOf(object ?? null, c.secondsPerSubstep, c.where)
  return {
    id: a.id,
    seed: seedOf(shot, s, a),
    ...(isGrown ? { grownOn: source } : {}),
    due: (t0, t1, grown) => (object?.muted ? [] : act.due(p, t0, t1, grown ?? travelled)),
    params: (t) => ({ source, system, ...act.launch(p, t) }),
  }
}
/** What of its source cannot be. */
function reportSource(
  c: CompileContext,
  s: SystemDoc,
  title: string,
  p: Reads<typeof launchParams>,
  { object, source, system }: { object: ObjectDoc | undefined; source: number; system: number },
): void {
  const report = (message: string) => c.problems.push({ element: s.id, message })
  if (system >= 0 && c.shot.systems[system].id === s.id)
    report(`${s.name} starts from its own particles; before the first of them there is nothing to start from: add another birth`)
  const part = p.text('part')
  const mesh: Mesh | null = source >= 0 ? c.objects[source].mesh : null
  if (part && mesh && !mesh.parts.some((x) => x.name === part))
    report(`${title} of ${s.name} starts on the part “${part}”, which ${object?.name} does not have; it starts on all of it`)
  const region = p.text('region')
  if (region && object && !object.regions.some((r) => r.id === region))
    report(`${title} of ${s.name} starts on a region that ${object.name} does not have any more; it starts on all of it`)
  const on = p.choice('from')
  if ((on === 'tips' || on === 'lines') && !(object && unmuted(object.offspring).some((x) => actOfSort(x.kind, 'offspring').growth)))
    report(
      `${title} of ${s.name} starts on what grows over ${object?.name ?? 'an object'}, and nothing does: give ${object ? 'it' : 'it a source that has'} a growth`,
    )
  if (object?.muted) report(`the source ${object.name} of ${s.name} is muted; its births wait`)
}
