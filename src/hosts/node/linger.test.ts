import { beforeAll, describe, expect, it } from 'vitest'
import { type ActDoc, type Curve, type ObjectDoc, type Shot, sampleCurve } from '../../shot'
import { act, along, card, dark, layer, straight } from './testing/cards'
import { Pictures, pixels } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [320, 180]
const STEP = 1 / 24
const linger = (values: Record<string, unknown> = {}): ActDoc => act('linger', { time: 5 * STEP, strength: 100, soften: 0, ...values })
/** A card that goes 12 m/s to the right, half a metre a frame, in the middle at frame 12. */
const runner = card('card', [along(-6, 6), 0, 0], [0.3, 0.6], [0.8, 0.4, 0.1], { layer: 'front' })
const inLayer = (finish: ActDoc[]) => (s: Shot) => {
  dark(s, [runner])
  s.layers.push(layer('front', { finish }))
}
const ofAll = (finish: ActDoc[]) => (s: Shot) => {
  dark(s, [{ ...runner, layer: null }])
  s.layers[0].finish.unshift(...finish)
}
async function drawn(change: (s: Shot) => void, frames: number[], transparent = false) {
  const renderer = await pictures.shown(change)
  let got: ReturnType<typeof pixels> = { data: new Uint8Array(), channels: 3 } as never
  for (const f of frames) got = pixels((await renderer.render(f, { width: WIDTH, height: HEIGHT, transparent })).png)
  const { data, channels } = got
  /** Light of a channel at a place of the shot's plane through its middle. */
  const light = (x: number, y = 0, channel = 0): number => {
    const [px, py] = [Math.floor((0.5 + x / 4) * WIDTH), Math.floor((0.5 - (y * 16) / 9 / 4) * HEIGHT)]
    return straight(data[(py * WIDTH + px) * channels + channel])
  }
  return { data, light }
}
const FADE: Curve = linger().fade as Curve
const left = (k: number, of = 5) => sampleCurve(FADE, k / of)

describe('what lingers', () => {
  it('is what was seen in earlier frames, as much of it as is left by then, and gone after its time', async () => {
    for (const change of [inLayer([linger()]), ofAll([linger()])]) {
      const { light } = await drawn(change, [13])
      // The card stands at half a metre; before, at each half metre to the left.
      expect(light(0.5)).toBeCloseTo(0.8, 1)
      for (const k of [1, 2, 3]) expect(light(0.5 - 0.5 * k)).toBeCloseTo(0.8 * left(k), 1.7)
      expect(light(0.5 - 0.5 * 3 + 0.25)).toBe(0)
    }
    const { light } = await drawn(inLayer([linger({ time: 2 * STEP })]), [13])
    expect(light(0)).toBeCloseTo(0.8 * left(1, 2), 1.7)
    expect(light(-0.5)).toBe(0)
  })
  it('is the same however one came to the frame', async () => {
    // Two, one of which sees what is left by the other.
    const both = (s: Shot) => {
      inLayer([linger({ soften: 10, hue: 90 })])(s)
      s.layers[0].finish.unshift(linger({ time: 3 * STEP, up: 40 }))
    }
    const jumped = await drawn(both, [14])
    for (const way of [
      [9, 10, 11, 12, 13, 14],
      [14, 2, 14],
      [20, 14],
    ])
      expect((await drawn(both, way)).data, `${way}`).toEqual(jumped.data)
  })
  it('drifts, spreads, blurs and turns in colour by its age', async () => {
    const up = await drawn(inLayer([linger({ up: 240 })]), [13])
    // A tenth of the height a frame: 0.225 m.
    expect(up.light(0, 0.2)).toBeGreaterThan(0.3)
    expect(up.light(0, -0.2)).toBe(0)
    const plain = await drawn(inLayer([linger()]), [13])
    const soft = await drawn(inLayer([linger({ soften: 120 })]), [13])
    expect(soft.light(0.22)).toBeGreaterThan(0.01)
    expect(plain.light(0.22)).toBe(0)
    const turned = await drawn(inLayer([linger({ hue: 24 * 120 })]), [13])
    // A third of the way around: what was red is green.
    expect(turned.light(0, 0, 1)).toBeCloseTo(plain.light(0, 0, 0), 1)
    const grown = await drawn(inLayer([linger({ grow: 240 })]), [13])
    expect(grown.light(-0.5 * 1.2)).toBeCloseTo(0.8 * left(2), 1)
  })
  it('joins what is there as it is told', async () => {
    const still = { ...runner, place: [0, 0, 0] as [number, number, number] }
    const of = (join: string, place: ObjectDoc = still) =>
      drawn(
        (s) => {
          inLayer([linger({ join, strength: 20 })])(s)
          s.objects = [place]
        },
        [13],
      )
    expect((await of('brightest')).light(0)).toBeCloseTo(0.8, 2)
    expect((await of('adds')).light(0)).toBeCloseTo(0.8 * 1.2, 1)
    expect((await of('behind')).light(0)).toBeCloseTo(0.8, 2)
    expect((await of('behind', runner)).light(0)).toBeCloseTo(0.2 * 0.8 * left(1), 1.7)
  })
  it('is gathered through an open shutter as the present frame is', async () => {
    const open = (s: Shot) => {
      inLayer([linger({ time: 3 * STEP })])(s)
      s.cameras[0] = { ...s.cameras[0], shutter: 360, shutterSamples: 8 }
    }
    const [jumped, walked] = [await drawn(open, [13]), await drawn(open, [11, 12, 13])]
    expect(walked.data).toEqual(jumped.data)
    // In a frame it passes half a metre and is 0.3 m wide: it is seen at each place three fifths of the time.
    expect(jumped.light(0.5)).toBeCloseTo(0.8 * 0.6, 1)
    expect(jumped.light(0)).toBeCloseTo(0.8 * 0.6 * left(1, 3), 1)
  })
})
