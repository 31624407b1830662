import { beforeAll, describe, expect, it } from 'vitest'
import { GLOW_PARAMS } from '../../acts'
import { gasDoc } from '../../acts/testing/gas'
import { primitive, thing } from '../../acts/testing/things'
import { readMesh } from '../../formats'
import { sample } from '../../formats/vdb/testing/samples'
import { type ActDoc, defaultsOf, type GasDoc, type Shape, type Shot } from '../../shot'
import { act, card, dark, straight } from './testing/cards'
import { Pictures, pixels } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
const [WIDTH, HEIGHT] = [160, 90]
const fogOf = (values: Record<string, unknown>): GasDoc =>
  gasDoc({ id: 'mist', feeds: [act('fog', { halves: null, patches: 0, forward: 0, even: 100, colour: [1, 1, 1], ...values })] })
/** Light in the middle of the picture, and its alpha. */
async function middle(change: (s: Shot) => void, transparent = false) {
  const renderer = await pictures.shown((s) => {
    dark(s, [])
    s.gases = []
    s.cameras[0] = { ...s.cameras[0], shutter: null }
    change(s)
  })
  const { data, channels } = pixels((await renderer.render(2, { width: WIDTH, height: HEIGHT, transparent })).png)
  const o = ((HEIGHT / 2) * WIDTH + WIDTH / 2) * channels
  return { light: [0, 1, 2].map((a) => straight(data[o + a])), alpha: channels === 4 ? data[o + 3] / 255 : 1 }
}
const wall = card('wall', [0, 0, 0], [6, 4], [0.6, 0.3, 0.1])

describe('fog over all', () => {
  it('dims what is behind it by its way, and sends on the even light', async () => {
    const seen = await middle((s) => {
      s.objects = [wall]
      s.surroundings = { colour: [0, 0, 0], light: [0.5, 0.5, 0.5] }
      s.gases = [fogOf({ density: 0.2 })]
    })
    const without = await middle((s) => {
      s.objects = [wall]
      s.surroundings = { colour: [0, 0, 0], light: [0.5, 0.5, 0.5] }
    })
    const {
      light: [dense],
    } = await middle((s) => {
      s.surroundings = { colour: [0, 0, 0], light: [0.5, 0.5, 0.5] }
      s.gases = [fogOf({ density: 50 })]
    })
    // The wall is seen from 5 m: its front lies half a centimetre nearer.
    const left = Math.exp(-0.2 * 4.995)
    seen.light.forEach((v, a) => {
      expect(Math.abs(v - (without.light[a] * left + dense * (1 - left)))).toBeLessThan(0.012)
    })
    expect(dense).toBeGreaterThan(0.05)
  })
  it('has an alpha of what it hides, and dims particles as it does objects', async () => {
    const alone = await middle((s) => void (s.gases = [fogOf({ density: 0.05, reach: 20 })]), true)
    expect(Math.abs(alone.alpha - (1 - Math.exp(-1)))).toBeLessThan(0.02)
    const dot = act('dot', { softness: 0 })
    const flown = (fogs: GasDoc[], way: ActDoc) => (s: Shot) => {
      const [system] = structuredClone(pictures.base.systems)
      const launch = { source: 'spot', along: 'direction', direction: [1, 0, 0], spread: 0, speed: 0, inherit: 0 }
      const look: ActDoc[] = [act('overLife', { size: 2, look: null, brightness: 0.8 }), way]
      system.birth = [act('burst', { ...launch, at: 0, count: 1, times: 1 })]
      system.whole = { movement: [], contact: [], offspring: [], look }
      system.phases = [{ ...system.phases[0], movement: [], contact: [], offspring: [], look: [], turns: [] }]
      Object.assign(system, { life: 5, endless: false, space: null, layer: null })
      s.systems = [system]
      s.objects = [thing('spot')]
      s.gases = fogs
    }
    const tuft = act('tuft', { shine: 100, surroundings: 0, thickness: 100, ragged: 0 })
    for (const way of [dot, tuft]) {
      const [clear, dim] = [await middle(flown([], way)), await middle(flown([fogOf({ density: 0.2 })], way))]
      expect(clear.light[1]).toBeGreaterThan(0.3)
      expect(Math.abs(dim.light[1] / clear.light[1] - Math.exp(-1))).toBeLessThan(0.02)
    }
  })
  it('dims glows by the way to them', async () => {
    const glowing = (fogs: GasDoc[]) => (s: Shot) => {
      s.glows = [
        {
          ...(defaultsOf(GLOW_PARAMS) as unknown as Shot['glows'][number]),
          ...{
            id: 'g',
            name: 'g',
            seed: 1,
            kind: 'disc',
            place: [0, 0, 0],
            size: 1,
            strength: 0.5,
            colour: [1, 1, 1],
            rays: 0,
            flicker: 0,
          },
        },
      ]
      s.gases = fogs
      // What the fog sends on by itself is nothing here.
      s.surroundings = { colour: [0, 0, 0], light: [0, 0, 0] }
    }
    const [clear, dim] = [await middle(glowing([])), await middle(glowing([fogOf({ density: 0.2 })]))]
    expect(clear.light[1]).toBeGreaterThan(0.2)
    expect(Math.abs(dim.light[1] / clear.light[1] - Math.exp(-1))).toBeLessThan(0.02)
  })
  it('is nothing when it is muted', async () => {
    const off = await middle((s) => {
      s.objects = [wall]
      s.gases = [{ ...fogOf({ density: 5 }), muted: true }]
    })
    expect(Math.abs(off.light[0] - 0.6)).toBeLessThan(0.01)
  })
})
describe('a gas that a file says', () => {
  it('dims what is behind it where its object stands, and nowhere else', async () => {
    const r = await readMesh(sample('quay_puff.0003.vdb'))
    if (!r.ok) throw new Error(r.problem.message)
    const hash = 'f'.repeat(64)
    pictures.meshes.set(hash, r.value)
    const seen = (place: [number, number, number]) => (s: Shot) => {
      const shape: Shape = { kind: 'mesh', asset: hash, unit: 1, up: 'y', poses: [], rate: 24, start: 0, speed: 1, after: 'hold' }
      s.objects = [
        card('wall', [0, 0, -3], [20, 12], [0.6, 0.6, 0.6]),
        thing('puff', { shape, place, seen: false }),
        thing('box', { shape: primitive('box'), place: [50, 0, 0] }),
      ]
      s.gases = [
        gasDoc({
          ...{ id: 'smoke', voxel: 0.1, motion: [], burning: [] },
          feeds: [act('fromFile', { object: 'puff', hold: null, from: null, to: null })],
          look: [act('smoke', { extinction: 12 })],
        }),
      ]
      s.assets = [{ hash, name: 'puff.vdb' }]
    }
    // Its densest part lies about 1.3 m above the file's own zero.
    const [behind, beside] = [await middle(seen([0, -1.3, 0])), await middle(seen([4, -1.3, 0]))]
    expect(Math.abs(beside.light[0] - 0.6)).toBeLessThan(0.02)
    expect(behind.light[0]).toBeLessThan(0.35)
  })
})
