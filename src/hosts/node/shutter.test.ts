import { beforeAll, describe, expect, it } from 'vitest'
import { shotPose } from '../../acts'
import { bodyOf, thing } from '../../acts/testing/things'
import { type ActDoc, type CameraDoc, looksOfPose, type ObjectDoc, type Shot, type SystemDoc } from '../../shot'
import { lookAt, momentOf } from '../../stage/lens'
import { act, along, card, dark, straight } from './testing/cards'
import { Pictures, pixels } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [320, 180]
const moving = (far: number, z = 0): ObjectDoc['place'] => [along(-far, far), 0, z]
const strip = (place: ObjectDoc['place']): ObjectDoc => card('card', place, [0.4, 1], [0.8, 0.8, 0.8])
/** In the dark, seen from 5 m, where the picture is 4 m wide. */
async function drawn(camera: Partial<CameraDoc>, change: (s: Shot) => void, frame = 12) {
  const renderer = await pictures.shown((s) => {
    dark(s, [])
    s.cameras[0] = { ...s.cameras[0], shutter: null, ...camera }
    change(s)
  })
  const { data, channels } = pixels((await renderer.render(frame, { width: WIDTH, height: HEIGHT, transparent: false })).png)
  /** Light along the middle row, by pixel. */
  const row = Array.from({ length: WIDTH }, (_, x) => straight(data[((HEIGHT / 2) * WIDTH + x) * channels + 1]))
  const lit = row.flatMap((v, x) => (v > 0.004 ? [x] : []))
  const all = () => {
    let sum = 0
    for (let i = 1; i < data.length; i += channels) sum += straight(data[i])
    return sum
  }
  return { row, width: lit.length, middle: lit.reduce((a, b) => a + b, 0) / lit.length, all }
}
const PX = WIDTH / 4
/** One particle, from an object named spot to the right. */
function flung({ at, speed }: { at: number; speed: number }, look: ActDoc[]): SystemDoc {
  const [system] = structuredClone(pictures.base.systems)
  const launch = { source: 'spot', along: 'direction', direction: [1, 0, 0], spread: 0, speed, inherit: 0 }
  system.birth = [act('burst', { ...launch, at, count: 1, times: 1 })]
  system.whole = { movement: [], contact: [], offspring: [], look }
  system.phases = [{ ...system.phases[0], movement: [], contact: [], offspring: [], look: [], turns: [] }]
  return Object.assign(system, { life: 5, endless: false, space: null, layer: null })
}

describe('an open shutter', () => {
  it('looks at every part of its time once, and at all of it with any first few', () => {
    for (const many of [1, 2, 5, 12, 16]) {
      const order = Array.from({ length: many }, (_, k) => momentOf(k, many))
      expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: many }, (_, i) => i))
      if (many > 4) expect(Math.max(...order.slice(0, 4)) - Math.min(...order.slice(0, 4))).toBeGreaterThan(many / 2)
    }
  })
  it('is open for its angle, half of it before the frame; without looks particles are streaks of all of it', () => {
    const s = structuredClone(pictures.base)
    s.cameras[0] = { ...s.cameras[0], shutter: 180, shutterSamples: 8 }
    const pose = shotPose(s, 0.5)
    expect(pose.open?.seconds).toBeCloseTo(0.5 / 24, 12)
    expect(looksOfPose(pose)).toBe(8)
    const p = { t: 0.5, pose, width: 64, height: 36, share: 1, samples: 4, transparent: false, through: true }
    const times = Array.from({ length: 8 }, (_, lens) => lookAt(s, { ...p, lens }).p.t - 0.5)
    expect(times.reduce((a, b) => a + b)).toBeCloseTo(0, 9)
    expect(Math.max(...times)).toBeCloseTo((0.25 / 24) * (7 / 8), 9)
    expect(lookAt(s, p).shutter).toEqual([0, 0.5 / 24])
    expect(lookAt(s, { ...p, lens: 3 }).shutter[1]).toBeCloseTo(0.5 / 24 / 8, 12)
  })
  it('blurs an object by its way, as long as it was seen, and keeps its light', async () => {
    // 12 m/s to the right: half a frame is 0.25 m.
    const moves = (s: Shot) => void s.objects.push(strip(moving(6)))
    const sharp = await drawn({}, moves)
    const open = await drawn({ shutter: 180, shutterSamples: 32 }, moves)
    expect(Math.abs(sharp.width - 0.4 * PX)).toBeLessThan(2)
    expect(Math.abs(open.width - 0.65 * PX)).toBeLessThan(2.5)
    expect(Math.abs(open.middle - sharp.middle)).toBeLessThan(0.7)
    expect(Math.abs(open.all() / sharp.all() - 1)).toBeLessThan(0.02)
    // Even, but for its ramps of as long as the way.
    const [middle, quarter] = [open.row[160], open.row[Math.round(160 - 0.325 * PX + 0.125 * PX)]]
    expect(Math.abs(quarter / middle - 0.5)).toBeLessThan(0.08)
  })
  it('blurs what stands still by the way of the camera, and leaves alone what goes along with it', async () => {
    const pan = { place: moving(6, 5), aim: moving(6), shutter: 180, shutterSamples: 24 }
    const stands = await drawn(pan, (s) => void s.objects.push(strip([0, 0, 0])))
    expect(Math.abs(stands.width - 0.65 * PX)).toBeLessThan(2.5)
    const along = await drawn(pan, (s) => void s.objects.push(strip(moving(6))))
    expect(Math.abs(along.width - 0.4 * PX)).toBeLessThan(2)
  })
  it('blurs an object that is thrown, and a body of a particle, as one that is keyed', async () => {
    // 12 m/s to the right from 6 m on the left, no forces: in the middle at frame 12.
    const thrown = (s: Shot) =>
      void s.objects.push({ ...strip([-6, 0, 0]), body: bodyOf({ at: 0, velocity: [12, 0, 0], spin: [0, 0, 0], inherit: 0 }) })
    const sharp = await drawn({}, thrown)
    const open = await drawn({ shutter: 180, shutterSamples: 24 }, thrown)
    expect(Math.abs(sharp.width - 0.4 * PX)).toBeLessThan(2)
    expect(Math.abs(open.width - 0.65 * PX)).toBeLessThan(2.5)
    expect(Math.abs(open.middle - sharp.middle)).toBeLessThan(0.7)
    expect(Math.abs(open.all() / sharp.all() - 1)).toBeLessThan(0.02)
    const flown = (s: Shot) => {
      const look = [act('overLife', { size: 0.4, look: null, brightness: 1 }), act('solid', { body: 'cube', lies: 'upright', shine: 100 })]
      s.systems = [flung({ at: 0, speed: 12 }, look)]
      s.objects = [thing('spot', { place: [-6, 0, 0] })]
    }
    const one = await drawn({}, flown)
    const many = await drawn({ shutter: 180, shutterSamples: 24 }, flown)
    expect(one.width).toBeGreaterThan(20)
    expect(Math.abs(many.width - one.width - 0.25 * PX)).toBeLessThan(2.5)
    expect(Math.abs(many.middle - one.middle)).toBeLessThan(1)
  })
  it('draws a fast particle as one even line as long as its way, in one look as in many', async () => {
    // 24 m/s to the right: half a frame is 0.5 m. It is born where it passes the middle at frame 12.
    const particle = (s: Shot) => {
      const look = [act('overLife', { size: 0.06, look: null, brightness: 0.9 }), act('dot', { softness: 0 })]
      s.systems = [flung({ at: 0.25, speed: 24 }, look)]
      s.objects = [thing('spot', { place: [-6, 0, 0] })]
    }
    const sharp = await drawn({}, particle)
    expect(sharp.width).toBeGreaterThan(2)
    expect(Math.abs(sharp.middle - 159.5)).toBeLessThan(2)
    for (const [shutterSamples, off] of [
      [1, 3],
      [6, 4],
    ]) {
      const open = await drawn({ shutter: 180, shutterSamples }, particle)
      expect(Math.abs(open.width - 0.56 * PX)).toBeLessThan(off)
      expect(Math.abs(open.middle - sharp.middle)).toBeLessThan(1)
      expect(Math.abs(open.all() / sharp.all() - 1)).toBeLessThan(0.2)
      // No beads along it.
      const line = open.row.slice(150, 170)
      expect(Math.min(...line) / Math.max(...line)).toBeGreaterThan(0.75)
    }
  })
})
