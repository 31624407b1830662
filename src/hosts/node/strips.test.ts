import { beforeAll, expect, it } from 'vitest'
import { thing } from '../../acts/testing/things'
import type { ActDoc, SystemDoc, Vec3 } from '../../shot'
import { act, dark, straight } from './testing/cards'
import { Pictures, pixels } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
const [WIDTH, HEIGHT] = [320, 180]
/** One particle from the object of its name, to the right. */
function one(id: string, speed: number, look: ActDoc[], offspring: ActDoc[] = []): SystemDoc {
  const [system] = structuredClone(pictures.base.systems)
  const launch = { source: id, along: 'direction', direction: [1, 0, 0], spread: 0, speed, inherit: 0 }
  system.birth = [act('burst', { ...launch, at: 0, count: 1, times: 1 })]
  system.whole = { movement: [], contact: [], offspring, look }
  system.phases = [{ ...system.phases[0], movement: [], contact: [], offspring: [], look: [], turns: [] }]
  return Object.assign(system, { id: `${id}-system`, life: 5, endless: false, space: null, layer: null })
}
const dot = (bright: number) => [
  act('overLife', { size: 0.3, look: null, brightness: bright }),
  act('dot', { softness: 0 }),
  act('blend', { inside: 'normal', onto: 'normal' }),
]
const LINE = { by: 'time', seconds: 5, as: 'ribbon', width: 0.5, softness: 0, own: 'none', brightness: 0.15, look: null }
/** Light in the middle of a near dot, of a far one, and of the strip between them beside both. */
async function light(line: Record<string, unknown> | null): Promise<{ near: number; far: number; strip: number }> {
  const at: Record<string, Vec3> = { near: [-0.2, 0, 1], far: [0.8, 0, -1], run: [-2, 0, 0] }
  const renderer = await pictures.shown((s) => {
    dark(
      s,
      Object.entries(at).map(([id, place]) => thing(id, { place, seen: false })),
    )
    s.systems = [
      one('run', 8, dot(0.15), line ? [act('trail', { ...LINE, ...line })] : []),
      one('far', 0, dot(0.9)),
      one('near', 0, dot(0.9)),
    ]
  })
  const { data, channels } = pixels((await renderer.render(12, { width: WIDTH, height: HEIGHT, transparent: false })).png)
  const row = (x: number, z: number) =>
    straight(data[((HEIGHT / 2) * WIDTH + Math.round(WIDTH / 2 + (x * 5 * WIDTH) / 4 / (5 - z))) * channels + 1])
  return { near: row(-0.2, 1), far: row(0.8, -1), strip: row(1.4, 0) }
}
it('strips that cover go by depth with the particles of other systems, those that add light up all', async () => {
  const none = await light(null)
  expect(none.near).toBeGreaterThan(0.7)
  expect(Math.abs(none.far - none.near)).toBeLessThan(0.02)
  expect(none.strip).toBeLessThan(0.01)
  const covers = await light({ blend: 'normal' })
  expect(covers.strip).toBeGreaterThan(0.05)
  expect(Math.abs(covers.near - none.near)).toBeLessThan(0.02)
  // The strip is dark and all but opaque there.
  expect(covers.far).toBeLessThan(0.45)
  const adds = await light({ blend: 'add' })
  expect(adds.near).toBeGreaterThan(none.near + 0.05)
  expect(adds.far).toBeGreaterThan(none.far + 0.05)
})
