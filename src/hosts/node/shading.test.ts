import { beforeAll, describe, expect, it } from 'vitest'
import { SKY_PARAMS } from '../../acts'
import { act } from '../../acts/testing/quiet'
import { primitive, thing } from '../../acts/testing/things'
import { defaultsOf, type ObjectDoc, type Shot, type SkyDoc, type Vec3 } from '../../shot'
import { mean, Pictures, pixels, size } from './testing/pictures'
import { overLife, still, sun } from './testing/still'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
const material = { colour: [0.5, 0.4, 0.3] as Vec3, roughness: 0.6, metal: 0, glow: [0, 0, 0] as Vec3 }
const object = (id: string, o: Partial<ObjectDoc>) => thing(id, { material, ...o })
/** Tufts that rise from between a floor and a bowl, in the light of a sun or a spot, and of a lamp that throws no shadow. */
const scene = (o: { key: 'sun' | 'spot'; sheen?: boolean; sky?: boolean; clouds?: boolean; tufts?: boolean }) => (s: Shot) => {
  const [first] = s.lights
  still(s, [overLife({ size: 0.2 }), act('tuft', { id: 't' })], { count: o.tufts === false ? 0 : 1500, source: 'source', from: 'inside' })
  s.systems[0].whole.movement = [act('gravity', { id: 'up', g: 3, direction: [0.4, 1, 0] })]
  const key = sun({ ...s, lights: [first] }, { place: [3, 8, 2] })
  const lamp = { id: 'lamp', kind: 'point' as const, place: [-3, 2, 3] as Vec3, strength: 12, colour: [0.4, 0.6, 1] as Vec3, shadow: false }
  s.lights = [o.key === 'sun' ? key : { ...key, kind: 'spot', strength: 300, angle: 40 }, { ...key, ...lamp }]
  if (o.sky) s.surroundings = { ...s.surroundings, colour: [0.1, 0.2, 0.4], light: [0.1, 0.12, 0.2] }
  if (o.clouds) s.surroundings.sky = { ...(defaultsOf(SKY_PARAMS) as unknown as SkyDoc), clouds: 50, drift: 40 }
  s.objects = [
    object('ground', { shape: { kind: 'plane', size: 12, endless: false }, place: [0, 0, 0] }),
    object('ball', {
      shape: primitive('sphere', { radius: 0.5 }),
      place: [1, 0.5, 0.4],
      ...(o.sheen ? { material: { ...material, sheen: 80 } } : {}),
    }),
    object('source', { shape: primitive('sphere', { radius: 0.5 }), place: [0, 1.2, 0], seen: false, shadow: false }),
  ]
  s.cameras[0] = { ...s.cameras[0], place: [0, 1.9, 6], aim: [0, 1, 0], lens: 30 }
}
/** With a value that keeps moving, though it changes nothing: gases then shade objects while these are drawn. */
const within = (change: (s: Shot) => void) => (s: Shot) => {
  change(s)
  const [c] = s.cameras
  s.cameras[0] = { ...c, lens: { keys: [0, 1].map((t) => ({ t, v: c.lens as number, ease: 'smooth' as const })) } }
}

describe('the shade of what dims softly', () => {
  it.each([
    { key: 'sun', sky: true },
    { key: 'spot', sheen: true },
    // What lies behind everything moves, and is drawn for each frame.
    { key: 'sun', clouds: true },
    // As with a GPU: kernels neither draw tufts nor lay their shade.
    { key: 'spot', sky: true, march: 'shader' },
  ] as const)('is the same over a picture that holds the key light apart as within one: %o', async (o) => {
    const { march } = { march: 'kernels' as const, ...o }
    const draw = async (change: (s: Shot) => void) => {
      const shown = await pictures.shown(change)
      const by = async (transparent: boolean) => (await shown.render(4, { ...size, transparent, march })).png
      return [pixels(await by(false)), pixels(await by(true))].map((p) => Float32Array.from(p.data))
    }
    const [apart, inside] = [await draw(scene(o)), await draw(within(scene(o)))]
    for (const k of [0, 1]) {
      const off = apart[k].map((v, i) => Math.abs(v - inside[k][i]))
      expect(off.reduce((sum, d) => sum + d, 0) / off.length).toBeLessThan(0.03)
      expect(off.filter((d) => d > 10).length / off.length).toBeLessThan(0.0003)
    }
    const shadow = [0.3, 0.7, 0.45, 0.85]
    const [bare] = await pictures.draw(scene({ ...o, tufts: false }), [4], [false])
    expect(mean(Uint8Array.from(apart[0]), shadow)).toBeLessThan(0.9 * mean(bare, shadow))
  })
  it('is that of its frame, whatever was drawn before', async () => {
    const change = scene({ key: 'sun', sky: true })
    const [first, second, third] = await pictures.draw(change, [2, 5, 9], [false])
    await pictures.draw(scene({ key: 'spot' }), [0], [true])
    expect((await pictures.draw(change, [9], [false]))[0]).toEqual(third)
    expect((await pictures.draw(change, [5, 2], [false])).map((d) => Buffer.from(d))).toEqual([second, first].map((d) => Buffer.from(d)))
    const moved = (a: Uint8Array, b: Uint8Array) => a.filter((v, i) => Math.abs(v - b[i]) > 4).length
    expect(moved(first, third)).toBeGreaterThan(size.width * 4)
  })
})
