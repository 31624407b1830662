import { beforeAll, describe, expect, it } from 'vitest'
import type { CameraDoc, ObjectDoc, Vec3 } from '../../shot'
import { card, dark } from './testing/cards'
import { Pictures, pixels } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [320, 180]
/** A small world, so that circles are wide. */
const K = 0.2
const small = (id: string, place: Vec3, width: number, glow: Vec3): ObjectDoc =>
  card(id, place.map((v) => v * K) as Vec3, [width * K, K], glow)
const NEAR = small('near', [-0.55, 0, 1.2], 0.5, [0.1, 0.7, 0.2])
const SHARP = small('sharp', [0.1, 0, 0], 0.7, [0.7, 0.2, 0.1])
const FAR = small('far', [0.9, 0.1, -3], 1, [0.2, 0.3, 0.9])
/** In the dark, from 1 m, where the picture is 0.8 m wide; focused there. */
async function drawn(camera: Partial<CameraDoc>, objects: ObjectDoc[]) {
  const renderer = await pictures.shown((s) => {
    dark(s, objects)
    s.cameras[0] = { ...s.cameras[0], place: [0, 0, 5 * K], focus: 5 * K, ...camera }
  })
  const { data, channels } = pixels((await renderer.render(2, { width: WIDTH, height: HEIGHT, transparent: false })).png)
  return { data, at: (x: number, c: number) => data[((HEIGHT / 2) * WIDTH + x) * channels + c] }
}
describe('a blur in one look', () => {
  it('is near what many looks give: wide circles before and behind what is sharp', async () => {
    const all = [NEAR, SHARP, FAR]
    const open = { aperture: 0.7 }
    const [none, quick, looks] = [
      await drawn({ aperture: null }, all),
      await drawn({ ...open, lensWay: 'quick' }, all),
      await drawn({ ...open, lensWay: 'looks', lensSamples: 72 }, all),
    ]
    const far = (a: Uint8Array, b: Uint8Array) => a.reduce((sum, v, i) => sum + Math.abs(v - b[i]), 0) / a.length
    expect(far(none.data, looks.data)).toBeGreaterThan(2)
    // Of what a lens changes it misses less than a third: what lies behind the rim of what is near is not known in one look.
    expect(far(quick.data, looks.data)).toBeLessThan(far(none.data, looks.data) / 3)
    // Its edge is as wide to three pixels: it is made at half the size.
    const edge = (d: typeof quick) => {
      const row = Array.from({ length: 110 }, (_, x) => d.at(x, 1))
      const top = Math.max(...row)
      return row.findIndex((v) => v > top * 0.9) - row.findIndex((v) => v > top * 0.1)
    }
    expect(edge(looks)).toBeGreaterThan(5)
    expect(Math.abs(edge(quick) - edge(looks))).toBeLessThanOrEqual(3)
  })
  it('leaves what is sharp sharp, before what is not and beside it, without a halo', async () => {
    const [none, quick] = [await drawn({ aperture: null }, [SHARP, FAR]), await drawn({ aperture: 0.7, lensWay: 'quick' }, [SHARP, FAR])]
    // The left edge of the sharp card against the dark, and all of its inside.
    for (let x = 120; x < 190; x++) if (x < 137 || x > 142) expect(Math.abs(quick.at(x, 0) - none.at(x, 0)), `${x}`).toBeLessThanOrEqual(4)
    // Beside it the far card is soft, and nothing of the sharp one is in it.
    for (let x = 204; x < 226; x++) expect(quick.at(x, 0)).toBeLessThanOrEqual(none.at(x, 0) + 12)
  })
})
