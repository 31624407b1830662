import type { Frame } from '../../engine'
import { framesOn, withWorld } from '../../engine/testing/plans'
import { type ActDoc, defaultsOf, type Shot } from '../../shot'
import { checkShot, compile } from '..'
import { actOf } from '../registry'
import { demoShot } from './shots'

/** An act with its defaults and the values that a test cares for. */
export const act = (kind: string, values: Record<string, unknown> = {}): ActDoc =>
  ({
    id: `a-${kind}`,
    kind,
    seed: 7,
    ...defaultsOf(actOf(kind).params),
    ...(actOf(kind).sort === 'force' ? { limits: [] } : {}),
    ...(actOf(kind).sort === 'turn' || kind === 'whenGroup' ? { when: [] } : {}),
    ...values,
  }) as ActDoc
/** A few particles that stand still in the middle of a shot without other forces. */
export function quiet(change: (s: Shot) => void = () => {}): Shot {
  const s = demoShot()
  s.objects = []
  s.forces = []
  const system = s.systems[0]
  system.birth = [act('burst', { count: 50, at: 0, source: null, speed: 0, every: null, spread: 0 })]
  system.whole.movement = []
  system.whole.contact = []
  system.phases[0].movement = []
  system.phases[0].contact = []
  system.life = { value: 100, vary: 0 }
  change(s)
  return s
}
/** What there is after some frames of a shot that must be a valid one. */
export const after = (s: Shot, frames: number): Promise<Frame> => {
  const checked = checkShot(s)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  return withWorld(compile(checked.shot, new Map()).plan, (w) => framesOn(w, frames))
}
