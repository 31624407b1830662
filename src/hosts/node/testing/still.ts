import { act } from '../../../acts/testing/quiet'
import type { Shot, Vec3 } from '../../../shot'

/** A shot with one system of particles that stand still, seen from the front, without bloom. */
export function still(s: Shot, look: ReturnType<typeof act>[], birth: Record<string, unknown>): void {
  s.objects = []
  s.systems = s.systems.slice(0, 1)
  const [x] = s.systems
  x.birth = [act('burst', { id: 'b', at: 0, every: null, source: null, from: 'point', speed: 0, spread: 0, ...birth })]
  Object.assign(x, { life: 100, space: null, whole: { movement: [], contact: [], offspring: [], look } })
  s.layers[0].finish = []
  s.lights = []
  s.surroundings = { colour: [0, 0, 0], light: [0.02, 0.02, 0.02] }
  s.cameras[0] = { ...s.cameras[0], place: [0, 0, 6], aim: [0, 0, 0], lens: 30 }
}
export const overLife = (values: Record<string, unknown>) =>
  act('overLife', { id: 'l', look: null, opacity: 100, brightness: 1, ...values })
export const sun = (s: Shot, o: Partial<Shot['lights'][number]> = {}) => ({
  ...s.lights[0],
  ...{ id: 'sun', kind: 'sun' as const, place: [0, 9, 0.1] as Vec3, aim: [0, 0, 0] as Vec3, colour: [1, 1, 1] as Vec3 },
  ...{ strength: 3, shadow: true, onGas: 100, muted: false },
  ...o,
})
