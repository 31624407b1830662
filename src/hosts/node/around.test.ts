import { beforeAll, describe, expect, it } from 'vitest'
import { primitive, thing } from '../../acts/testing/things'
import { LIGHT_TYPE, lightAround, toHalf } from '../../formats/image/light'
import type { LightDoc, Shot, Vec3 } from '../../shot'
import { Pictures, pixels } from './testing/pictures'
import { linear } from './testing/screen'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [128, 72]
let made = 0
/** A picture of light by a rule of the direction: brings it in, and says what a light of it holds. */
function around(of: (d: Vec3) => Vec3, o: Partial<LightDoc> = {}): LightDoc {
  const [width, height] = [128, 64]
  const data = new Uint16Array(width * height * 4)
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      // The middle towards −Z, +X to the right of it.
      const [turn, high] = [((x + 0.5) / width - 0.5) * 2 * Math.PI, (0.5 - (y + 0.5) / height) * Math.PI]
      const rgb = of([Math.sin(turn) * Math.cos(high), Math.sin(high), -Math.cos(turn) * Math.cos(high)])
      data.set([...rgb.map(toHalf), 0x3c00], (y * width + x) * 4)
    }
  const asset = (made++).toString(16).padStart(64, '0')
  pictures.meshes.set(asset, {
    positions: new Float32Array(12),
    normals: null,
    indices: Uint32Array.from([0, 1, 2]),
    parts: [],
    textures: [{ part: '', type: LIGHT_TYPE, data: new Uint8Array(data.buffer), size: [width, height], brightness: null }],
  })
  const light = {
    ...pictures.base.lights[0],
    id: 'around',
    kind: 'around' as const,
    strength: 1,
    asset,
    ...lightAround({ width, height, data }),
  }
  return { ...light, turn: 0, seen: true, brightness: 100, blur: 0, ...o }
}
/** What a camera sees in its middle, linear: towards `look` from the opposite side, with the objects that `change` adds. */
async function seen(light: LightDoc, look: Vec3, change: (s: Shot) => void = () => {}): Promise<{ middle: Vec3; corner: Vec3 }> {
  const renderer = await pictures.shown((s) => {
    s.objects = []
    s.systems = []
    s.forces = []
    s.lights = [light]
    s.layers[0].finish = []
    s.surroundings = { colour: [0, 0, 0], light: [0.7, 0, 0] }
    s.cameras[0] = { ...s.cameras[0], place: look.map((v) => -4 * v) as Vec3, aim: [0, 0, 0], lens: 50 }
    change(s)
  })
  const { data, channels } = pixels((await renderer.render(2, { width: WIDTH, height: HEIGHT, transparent: false })).png)
  const at = (x: number, y: number) => [0, 1, 2].map((k) => linear(data[(y * WIDTH + x) * channels + k])) as Vec3
  return { middle: at(WIDTH / 2, HEIGHT / 2), corner: at(2, 2) }
}
const plate =
  (rotate: Vec3, o: Partial<Shot['objects'][number]['material']> = {}) =>
  (s: Shot): void => {
    const plain = thing('plate', { shape: primitive('box', { width: 1, height: 0.02, depth: 1 }), rotate })
    s.objects = [{ ...plain, material: { ...plain.material, colour: [1, 1, 1], roughness: 1, metal: 0, ...o } }]
  }
const [DOWN, UP]: Vec3[] = [
  [0, -1, 0.001],
  [0, 1, 0.001],
]

describe('light from all around', () => {
  it('that is even is seen as it is, sharp and blurred, and leaves a white thing as bright as itself', async () => {
    const even = around(() => [0.3, 0.3, 0.3])
    for (const blur of [0, 40, 100]) expect(Math.abs((await seen({ ...even, blur }, [0, 0, -1])).middle[0] - 0.3)).toBeLessThan(0.01)
    const lit = await seen(even, DOWN, plate([0, 0, 0]))
    expect(Math.abs(lit.middle[1] / 0.3 - 1)).toBeLessThan(0.06)
    expect(Math.abs(lit.corner[1] - 0.3)).toBeLessThan(0.01)
    expect(Math.abs((await seen({ ...even, brightness: 50 }, DOWN, plate([0, 0, 0]))).corner[1] - 0.15)).toBeLessThan(0.01)
    const unseen = await seen({ ...even, seen: false, strength: 2 }, DOWN, plate([0, 0, 0]))
    expect([Math.abs(unseen.middle[1] / 0.6 - 1) < 0.06, unseen.corner[1]]).toEqual([true, 0])
  })
  it('from a sky that brightens with the sine of the height gives a face that lies two thirds of its zenith, one that stands a third of it', async () => {
    const sky = around(([, y]) => Array(3).fill(Math.max(0, 0.6 * y)) as Vec3)
    expect(Math.abs((await seen(sky, DOWN, plate([0, 0, 0]))).middle[0] / 0.4 - 1)).toBeLessThan(0.08)
    expect((await seen(sky, UP, plate([0, 0, 0]))).middle[0]).toBeLessThan(0.02)
    // ∫ over the half that it faces of sin φ · cos φ cos θ · cos φ dφ dθ / π, above the ground alone: 2 / (3 π).
    expect(Math.abs((await seen(sky, [0, 0, -1], plate([90, 0, 0]))).middle[0] / (0.6 * (2 / (3 * Math.PI))) - 1)).toBeLessThan(0.1)
  })
  it('has its middle towards −Z, and turned by 90° towards −X, as it is seen, sharp or blurred, and as it lights', async () => {
    // Red ahead, green to the right, blue behind, white to the left.
    const quarters = around(([x, , z]) =>
      Math.abs(z) > Math.abs(x) ? (z < 0 ? [0.5, 0, 0] : [0, 0, 0.5]) : x > 0 ? [0, 0.5, 0] : [0.5, 0.5, 0.5],
    )
    const hue = (c: Vec3) => c.map((v) => (v > 0.5 * Math.max(...c) ? 1 : 0)).join('')
    const ways: [way: Vec3, turn: number, blur: number, hue: string][] = [
      [[0, 0, -1], 0, 0, '100'],
      [[1, 0, 0], 0, 20, '010'],
      [[-1, 0, 0], 90, 0, '100'],
      [[0, 0, 1], 90, 20, '111'],
    ]
    for (const [way, turn, blur, there] of ways) expect(hue((await seen({ ...quarters, turn, blur }, way)).middle)).toBe(there)
    // A face towards the camera is lit, and mirrors, what is behind the camera.
    const mirror = { roughness: 0.1, metal: 1 }
    expect(hue((await seen({ ...quarters, turn: 90 }, [0, 0, -1], plate([90, 0, 0], mirror))).middle)).toBe('111')
    const [r, , b] = (await seen(quarters, [0, 0, -1], plate([90, 0, 0]))).middle
    expect(b).toBeGreaterThan(2 * r)
  })
  it('without a picture, or muted, leaves the even light; while its file is not there, it lights as evenly as that does on the mean', async () => {
    const even = around(() => [0, 0.3, 0])
    for (const o of [{ asset: null }, { muted: true }]) {
      const { middle, corner } = await seen({ ...even, ...o }, DOWN, plate([0, 0, 0]))
      expect([middle[0] > 0.5, middle[1], ...corner]).toEqual([true, 0, 0, 0, 0])
    }
    const { middle, corner } = await seen({ ...even, asset: 'f'.repeat(64) }, DOWN, plate([0, 0, 0]))
    expect([middle[0], Math.abs(middle[1] / 0.3 - 1) < 0.06, ...corner]).toEqual([0, true, 0, 0, 0])
  })
})

describe('an area light', () => {
  it('lights what is matt as the integral over its rectangle or its disc does, near by and far off, straight and askew', async () => {
    const lamp = {
      ...pictures.base.lights[0],
      id: 'area',
      kind: 'area' as const,
      colour: [1, 1, 1] as Vec3,
      strength: 0.4,
      shadow: false,
      follows: null,
    }
    const cases: Area[] = [
      { place: [0, 0.5, 0], aim: [0, 0, 0], width: 1, height: 0.6 },
      { place: [0, 2.5, 0], aim: [0, 0, 0], width: 1, height: 0.6 },
      { place: [0.9, 0.7, 0.3], aim: [0.1, 0, 0], width: 0.8, height: 1.2 },
      { place: [0, 0.5, 0], aim: [0, 0, 0], width: 1, height: 1, round: true },
      { place: [0.9, 0.7, 0.3], aim: [0.1, 0, 0], width: 0.8, height: 1.2, round: true },
    ]
    for (const c of cases) {
      const { middle } = await seen({ ...lamp, ...c }, DOWN, (s) => {
        plate([0, 0, 0])(s)
        s.surroundings.light = [0, 0, 0]
      })
      expect(Math.abs(middle[1] / direct(c, 0.4) - 1)).toBeLessThan(0.05)
    }
  })
})
interface Area {
  place: Vec3
  aim: Vec3
  width: number
  height: number
  round?: boolean
}
/** Radiance of a white matt face at 0, 0.01, 0 that lies, in the light of an area: the sum over 200² parts of its rectangle, or those in its disc. */
function direct(o: Area, strength: number): number {
  const sub = (a: Vec3, b: Vec3) => a.map((v, i) => v - b[i]) as Vec3
  const unit = (a: Vec3) => a.map((v) => v / Math.hypot(...a)) as Vec3
  const cross = (a: Vec3, b: Vec3): Vec3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
  const front = unit(sub(o.aim, o.place))
  const right = unit(cross(front, Math.abs(front[1]) > 0.999 ? [0, 0, 1] : [0, 1, 0]))
  const up = cross(right, front)
  const n = 200
  let sum = 0
  let parts = 0
  for (let i = 0; i < n; i++)
    for (let j = 0; j < n; j++) {
      const [s, t] = [(i + 0.5) / n - 0.5, (j + 0.5) / n - 0.5]
      if (o.round && Math.hypot(s, t) > 0.5) continue
      parts++
      const [u, v] = [s * o.width, t * o.height]
      const to = o.place.map((p, a) => p + right[a] * u + up[a] * v - [0, 0.01, 0][a]) as Vec3
      const d2 = to.reduce((q, v) => q + v * v, 0)
      const way = unit(to)
      sum += (Math.max(0, way[1]) * Math.max(0, -way.reduce((q, v, a) => q + v * front[a], 0))) / d2
    }
  // Its radiance is the strength over its area, and so is the part of each.
  return (sum * strength) / parts / Math.PI
}
