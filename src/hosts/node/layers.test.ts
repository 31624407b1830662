import { beforeAll, describe, expect, it } from 'vitest'
import { MASK_PARAMS } from '../../acts'
import { thing } from '../../acts/testing/things'
import { defaultsOf, type LayerDoc, type MaskDoc, type ObjectDoc, type Shot } from '../../shot'
import { act, card, dark, layer, straight } from './testing/cards'
import { Pictures, pixels } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})

const [WIDTH, HEIGHT] = [192, 108]
/** Cards that shine in the dark, seen from 5 m, where the picture is 4 m wide. */
async function drawn(objects: ObjectDoc[], layers: LayerDoc[], change: (s: Shot) => void = () => {}, transparent = false, frame = 2) {
  const renderer = await pictures.shown((s) => {
    dark(s, objects)
    s.layers.push(...layers)
    change(s)
  })
  const { data, channels } = pixels((await renderer.render(frame, { width: WIDTH, height: HEIGHT, transparent })).png)
  /** Linear light where a place of the shot's plane through its middle is. */
  const light = (x: number, y: number): number[] => {
    const i = (Math.floor((0.5 - (y * 16) / 9 / 4) * HEIGHT) * WIDTH + Math.floor((0.5 + x / 4) * WIDTH)) * channels
    return [...data.subarray(i, i + 3)].map(straight)
  }
  return { light, data, channels }
}
const near = (a: number[], b: number[]) => a.forEach((v, i) => void expect(Math.abs(v - b[i]), `${a} for ${b}`).toBeLessThan(0.012))

const back = card('back', [0, 0, -1], [2.4, 2.4], [0.4, 0.2, 0.1])
const front = card('front', [0.3, 0, 0], [1, 1], [0.1, 0.3, 0.5], { layer: 'over' })
describe('a layer', () => {
  it('joins what is behind by its blend and as much as its opacity says', async () => {
    const [b, f] = [
      [0.4, 0.2, 0.1],
      [0.1, 0.3, 0.5],
    ]
    const of = async (values: Partial<LayerDoc>) => (await drawn([back, front], [layer('over', values)])).light(0.3, 0)
    near(await of({}), f)
    near(
      await of({ opacity: 25 }),
      b.map((x, i) => 0.75 * x + 0.25 * f[i]),
    )
    near(
      await of({ blend: 'add' }),
      b.map((x, i) => x + f[i]),
    )
    near(
      await of({ blend: 'screen' }),
      b.map((x, i) => x + f[i] - x * f[i]),
    )
    near(
      await of({ blend: 'multiply' }),
      b.map((x, i) => x * f[i]),
    )
    near(await of({ opacity: 0 }), b)
    near(await of({ muted: true }), b)
  })
  it('with all as it is gives the picture that is there without it, also with alpha', async () => {
    const own = (o: ObjectDoc) => ({ ...o, layer: null })
    for (const alpha of [false, true]) {
      const plain = await drawn([back, own(front)], [], () => {}, alpha)
      const split = await drawn([back, front], [layer('over')], () => {}, alpha)
      // Edges of a card over another: both are smoothed apart.
      let far = 0
      for (let i = 0; i < plain.data.length; i++) far += Math.abs(plain.data[i] - split.data[i]) > 3 ? 1 : 0
      expect(far / plain.data.length).toBeLessThan(0.012)
    }
  })
  it('is hidden by the objects of others that are nearer, and hides those behind', async () => {
    const nearer = card('nearer', [0.5, 0, 1], [0.4, 0.4], [0.7, 0.7, 0.1])
    const { light } = await drawn([back, front, nearer], [layer('over')])
    near(light(0.5, 0), [0.7, 0.7, 0.1])
    near(light(0.05, 0), [0.1, 0.3, 0.5])
  })
  it('has finishes of its own, which leave the rest alone', async () => {
    const grade = layer('over', { finish: [act('grade', { exposure: 1 })] })
    const { light } = await drawn([back, front], [grade])
    near(light(0.3, 0), [0.2, 0.6, 1])
    near(light(-0.8, 0), [0.4, 0.2, 0.1])
  })
  it('lies at the depth of an element: what is nearer goes over it, what is farther under it', async () => {
    const anchor = thing('anchor', { place: [0, 0, 0] })
    const light = card('light', [-0.3, 0, -0.5], [0.4, 0.4], [9, 9, 9], { layer: 'over' })
    // Wide enough to reach the nearer card, in which it lies.
    const wash = layer('over', { lies: 'anchor', blend: 'add', finish: [act('soften', { radius: 25 })] })
    const nearer = card('nearer', [0.6, 0, 1], [0.5, 0.5], [0.3, 0.6, 0.1])
    const all = await drawn([back, light, nearer, anchor], [wash])
    const flat = await drawn([back, light, nearer, anchor], [{ ...wash, lies: null }])
    near(all.light(0.6, 0), [0.3, 0.6, 0.1])
    expect(Math.abs(flat.light(0.6, 0)[1] - 0.6)).toBeGreaterThan(0.03)
    near(all.light(-0.3, 0), flat.light(-0.3, 0))
  })
  it('is cut by a drawn mask, by an object and by the light of a layer, inside or outside', async () => {
    const left: MaskDoc = {
      ...(defaultsOf(MASK_PARAMS) as unknown as MaskDoc),
      ...{ id: 'mask', name: 'Mask', seed: 1, feather: 0 },
      outline: [
        [-1, -1, 0],
        [0.15, -1, 0],
        [0.15, 1, 0],
        [-1, 1, 0],
      ],
    }
    const cut = async (values: Partial<LayerDoc>, objects: ObjectDoc[] = []) => {
      const { light } = await drawn(
        [back, front, ...objects],
        [layer('over', values)],
        (s) => void s.masks.push({ ...left, muted: values.cut !== 'outline' }),
      )
      return [light(0.1, 0), light(0.6, 0)]
    }
    const [b, f] = [
      [0.4, 0.2, 0.1],
      [0.1, 0.3, 0.5],
    ]
    const both = async (values: Partial<LayerDoc>, want: number[][], objects: ObjectDoc[] = []) => {
      const got = await cut(values, objects)
      for (const i of [0, 1]) near(got[i], want[i])
    }
    await both({ cut: 'outline', cutMask: 'mask' }, [f, b])
    await both({ cut: 'outline', cutMask: 'mask', cutOutside: true }, [b, f])
    // It is not seen, and lies behind the wall.
    const stencil = card('stencil', [0.15, 0, -3], [0.9, 0.9], [1, 1, 1], { seen: false })
    await both({ cut: 'object', cutObject: 'stencil' }, [f, b], [stencil])
    await both(
      { cut: 'layer', cutLayer: 'picture' },
      [0.22, 0.22].map((m) => b.map((x, i) => (1 - m * 1.066) * x + m * 1.066 * f[i])),
    )
    await both({ cut: 'outline', cutMask: null }, [f, f])
    // With a feather it is half seen at the edge, and what lies under it stays as it is.
    const { light } = await drawn([back, front, stencil], [layer('over', { cut: 'object', cutObject: 'stencil', cutFeather: 12 })])
    near(light(-0.9, 0.5), b)
    const edge = light(0.15 + (0.45 * 5) / 8, 0)
    for (const c of [0, 2]) expect(Math.abs((edge[c] - b[c]) / (f[c] - b[c]) - 0.5)).toBeLessThan(0.2)
  })
  it('of particles and glows as of objects', async () => {
    const only = (s: Shot) => {
      s.objects = structuredClone(pictures.base.objects)
      s.systems = structuredClone(pictures.base.systems)
      for (const x of s.systems) x.layer = 'over'
      s.cameras = structuredClone(pictures.base.cameras)
    }
    const inPicture = (s: Shot) => {
      only(s)
      for (const x of s.systems) x.layer = null
    }
    const plain = await drawn([], [layer('over')], inPicture, false, 16)
    const split = await drawn([], [layer('over')], only, false, 16)
    let most = 0
    for (let i = 0; i < plain.data.length; i++) most = Math.max(most, Math.abs(plain.data[i] - split.data[i]))
    expect(most).toBeLessThanOrEqual(2)
    const gone = await drawn([], [layer('over', { opacity: 0 })], only, false, 16)
    const sum = (d: Uint8Array) => d.reduce((a, b) => a + b, 0)
    expect(sum(gone.data)).toBeLessThan(sum(plain.data) * 0.8)
    // A layer that holds nothing changes nothing.
    const empty = await drawn([], [layer('over'), layer('empty')], only, false, 16)
    expect(empty.data).toEqual(split.data)
    expect(Math.max(...plain.data)).toBeGreaterThan(200)
  })
})

describe('an object that cuts out', () => {
  const cutter = (cutSoft = 0): ObjectDoc => {
    const o = card('cutter', [0, 0, 0], [0.8, 0.8], [1, 1, 1])
    return { ...o, material: { ...o.material, cutsOut: true, cutSoft } }
  }
  const own = { ...front, layer: null, place: [0.2, 0, 0.5] as [number, number, number] }
  it('is not seen and hides all behind it down to the background, not what is nearer', async () => {
    const blue = (s: Shot) => void (s.surroundings.colour = [0, 0, 0.3])
    const { light } = await drawn([back, cutter()], [], blue)
    near(light(0, 0), [0, 0, 0.3])
    near(light(0.6, 0), [0.4, 0.2, 0.1])
    // With another layer, too.
    near((await drawn([back, front, cutter()], [layer('over')], blue)).light(-0.3, 0), [0, 0, 0.3])
    near((await drawn([back, cutter(), own], [], blue)).light(0.2, 0), [0.1, 0.3, 0.5])
    const clear = await drawn([back, cutter()], [], blue, true)
    const middle = (Math.floor(HEIGHT / 2) * WIDTH + WIDTH / 2) * 4 + 3
    expect(clear.data[middle]).toBe(0)
  })
  it('has an edge as soft as it says: inside its outline more and more is hidden, nothing beyond it', async () => {
    const { light } = await drawn([back, cutter(12)], [])
    near(light(0, 0), [0, 0, 0])
    near(light(0.65, 0), [0.4, 0.2, 0.1])
    // The card seen from 5 m is 0.8 m wide.
    expect(light(0.39, 0)[0]).toBeGreaterThan(0.4 * 0.8)
    expect(light(0.3, 0)[0]).toBeGreaterThan(0.4 * 0.2)
    expect(light(0.3, 0)[0]).toBeLessThan(0.4 * 0.8)
    const steps = [0.2, 0.25, 0.3, 0.35, 0.4, 0.45].map((x) => light(x, 0)[0])
    for (let i = 1; i < steps.length; i++) expect(steps[i]).toBeGreaterThanOrEqual(steps[i - 1])
  })
})
