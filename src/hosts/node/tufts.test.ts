import { beforeAll, describe, expect, it } from 'vitest'
import { GLOW_PARAMS, MASK_PARAMS } from '../../acts'
import { act } from '../../acts/testing/quiet'
import { primitive, thing } from '../../acts/testing/things'
import { defaultsOf, type GlowDoc, type MaskDoc, type ObjectDoc, type Shot, type Vec3 } from '../../shot'
import { mean, Pictures, pixels, size } from './testing/pictures'
import { screened } from './testing/screen'
import { overLife, still, sun } from './testing/still'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
const one = async (change: (s: Shot) => void): Promise<Uint8Array> => (await pictures.draw(change, [2], [false]))[0]

describe('tufts', () => {
  const grey = { colour: [0.5, 0.5, 0.5] as Vec3, roughness: 1, metal: 0, glow: [0, 0, 0] as Vec3 }
  const object = (id: string, o: Partial<ObjectDoc>) => thing(id, { material: grey, ...o })
  /** A ball of 4,000 tufts, half a metre across, at 1.2 m over a floor. */
  const cloud = (o: { tuft?: Record<string, unknown>; roof?: boolean; muted?: boolean }) => (s: Shot) => {
    const [first] = s.lights
    const look = [overLife({ size: 0.16, brightness: 0.9 }), act('tuft', { id: 't', ...o.tuft })]
    still(s, look, { count: 4000, source: 'source', from: 'inside' })
    s.systems[0].muted = o.muted
    s.lights = [{ ...sun({ ...s, lights: [first] }) }]
    s.objects = [
      object('ground', { shape: { kind: 'plane', size: 12, endless: false }, place: [0, 0, 0], shadow: false }),
      object('source', { shape: primitive('sphere', { radius: 0.6 }), place: [0, 1.2, 0], seen: false, shadow: false }),
      ...(o.roof ? [object('roof', { shape: primitive('box', { width: 3, height: 0.1, depth: 3 }), place: [0, 5, 0] })] : []),
    ]
    s.cameras[0] = { ...s.cameras[0], place: [0, 1.9, 6], aim: [0, 1, 0], lens: 30 }
  }
  const top = [0.46, 0.34, 0.54, 0.41]
  const bottom = [0.46, 0.52, 0.54, 0.58]
  const under = [0.45, 0.72, 0.55, 0.77]
  it('take light from above and are dark below, throw a shadow, and lie in that of others', async () => {
    const lit = await one(cloud({}))
    const bare = await one(cloud({ muted: true }))
    expect(mean(lit, top)).toBeGreaterThan(2 * mean(lit, bottom))
    expect(mean(lit, under)).toBeLessThan(0.7 * mean(bare, under))
    const roofed = await one(cloud({ roof: true }))
    expect(mean(roofed, top)).toBeLessThan(0.5 * mean(lit, top))
  })
  it('look the same by kernels and by a shader: turned, copied, mapped, of two systems, before and behind an object', async () => {
    const change = (s: Shot) => {
      cloud({ tuft: { ragged: 80 } })(s)
      const [a] = s.systems
      const b = structuredClone(a)
      Object.assign(b, { id: 'other', seed: 5, place: [1.6, 0, 1], rotate: [0, 40, 0], scale: [0.7, 0.7, 0.7] })
      a.whole.look.push(act('mapValue', { id: 'map', by: 'random', of: 'size', joins: 'multiply', low: 0.4, high: 2 }))
      a.copies = [act('copiesLine', { id: 'row', count: 2, step: [-1.2, 0.4, 0.2] })]
      s.systems = [a, b]
      s.objects.push(object('post', { shape: primitive('box', { width: 0.1, height: 3, depth: 0.1 }), place: [0.5, 1, 0.6] }))
    }
    const by = async (march: 'kernels' | 'shader') =>
      pixels((await (await pictures.shown(change)).render(2, { ...size, transparent: false, march })).png).data
    const [kernels, shader] = [await by('kernels'), await by('shader')]
    const off = kernels.map((v, i) => Math.abs(v - shader[i]))
    expect(mean(kernels, [0.1, 0.2, 0.8, 0.6])).toBeGreaterThan(20)
    expect(off.reduce((sum, d) => sum + d, 0) / off.length).toBeLessThan(0.5)
    // Where two lie at nearly the same depth, the shader draws one system after the other.
    expect(off.filter((d) => d > 8).length / off.length).toBeLessThan(0.005)
  })
  const glow: GlowDoc = {
    ...(defaultsOf(GLOW_PARAMS) as unknown as GlowDoc),
    ...{ id: 'glow', name: 'Glow', seed: 7, place: [0, 1.3, 1], colour: [1, 1, 1], strength: 0.8, size: 1.5 },
  }
  const leftHalf: MaskDoc = {
    ...(defaultsOf(MASK_PARAMS) as unknown as MaskDoc),
    ...{ id: 'mask', name: 'Mask', seed: 1, feather: 0, depth: 3 },
    outline: [-3, 0].flatMap((x) =>
      x
        ? [
            [x, -3, 0],
            [x, 3, 0],
          ]
        : [
            [x, 3, 0],
            [x, -3, 0],
          ],
    ) as MaskDoc['outline'],
  }
  it('show over them what is drawn after them: a glow, dots of another system, what a mask hides', async () => {
    const drawn = async (march: 'kernels' | 'shader', add: (s: Shot) => void, transparent = false) => {
      const renderer = await pictures.shown((s) => {
        cloud({ tuft: { ragged: 0 } })(s)
        s.layers[0].finish = []
        add(s)
      })
      return pixels((await renderer.render(2, { ...size, transparent, march })).png).data
    }
    const off = (a: Uint8Array, b: Uint8Array) => a.reduce((sum, v, i) => sum + Math.abs(v - b[i]), 0) / a.length
    const adds: Record<string, (s: Shot) => void> = {
      nothing: () => {},
      glow: (s) => void s.glows.push(glow),
      dots: (s) => {
        const [a] = s.systems
        s.systems.push(structuredClone({ ...a, id: 'dots', seed: 3, place: [1, 0, 0], whole: { ...a.whole, look: [a.whole.look[0]] } }))
      },
      mask: (s) => void s.masks.push(leftHalf),
    }
    const plain = await drawn('kernels', adds.nothing)
    for (const [name, add] of Object.entries(adds)) {
      const [kernels, shader] = [await drawn('kernels', add), await drawn('shader', add)]
      expect(off(kernels, shader), name).toBeLessThan(0.5)
      if (name !== 'nothing') expect(off(kernels, plain), name).toBeGreaterThan(1)
    }
    expect(off(await drawn('kernels', adds.nothing, true), await drawn('shader', adds.nothing, true))).toBeLessThan(0.5)
  })
  it('do not shade each other when they are told not to, and shine by themselves when they are', async () => {
    const even = await one(cloud({ tuft: { shade: 0 } }))
    expect(mean(even, top) / mean(even, bottom)).toBeLessThan(1.15)
    expect(mean(even, top) / mean(even, bottom)).toBeGreaterThan(0.87)
    const dark = await one(cloud({ tuft: { shine: 0, surroundings: 0 }, roof: true }))
    const shining = await one(cloud({ tuft: { shine: 100, surroundings: 0 }, roof: true }))
    expect(mean(dark, bottom)).toBeLessThan(8)
    expect(mean(shining, bottom)).toBeGreaterThan(screened(0.9) - 25)
  })
  it('covers as much as its thickness says in its middle, and fades before an object that it meets', async () => {
    const single = (tuft: Record<string, unknown>, wall: number) => (s: Shot) => {
      still(s, [overLife({ size: 2, brightness: 1 }), act('tuft', { id: 't', ragged: 0, shine: 100, surroundings: 0, ...tuft })], {
        count: 1,
      })
      s.objects = [object('wall', { shape: primitive('box', { width: 9, height: 9, depth: 0.2 }), place: [0, 0, -wall - 0.1] })]
      s.surroundings.light = [0, 0, 0]
    }
    const middle = [0.497, 0.495, 0.503, 0.505]
    for (const thickness of [0.3, 1, 3]) {
      const d = await one(single({ thickness, meets: 0 }, 3))
      expect(Math.abs(mean(d, middle) - screened(1 - Math.exp(-thickness)))).toBeLessThan(3)
    }
    // Half a radius before the wall, and half of the way over which it fades.
    const d = await one(single({ thickness: 3, meets: 1 }, 0.5))
    expect(Math.abs(mean(d, middle) - screened((1 - Math.exp(-3)) / 2))).toBeLessThan(4)
  })
})
