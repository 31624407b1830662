import { beforeAll, describe, expect, it } from 'vitest'
import { gasDoc } from '../../acts/testing/gas'
import { act } from '../../acts/testing/quiet'
import { primitive, thing } from '../../acts/testing/things'
import type { Shot, Vec3 } from '../../shot'
import { mean, Pictures, pixels, size } from './testing/pictures'

let pictures: Pictures
beforeAll(async () => {
  pictures = await Pictures.open()
})
const draw: Pictures['draw'] = (...o) => pictures.draw(...o)

/** A short puff of burning smoke over the anvil. */
const burning = (s: Shot): void => {
  s.systems = []
  s.warm = 0
  s.lights = s.lights.slice(0, 1)
  s.gases = [
    gasDoc({
      ...{ voxel: 0.06, place: [0, 1.3, 0], size: [1.9, 1.9, 1.9] },
      feeds: [
        act('fromObject', { id: 'feed', object: 'anvil', end: null, temperatureHow: 'set', temperature: 500, fuelHow: 'set', fuel: 1 }),
      ],
      motion: [act('rise', { id: 'rise' }), act('curl', { id: 'curl' })],
      burning: [act('burn', { id: 'burn' })],
      look: [act('smoke', { id: 'smoke', extinction: 12 }), act('glow', { id: 'glow', strength: 3 })],
    }),
  ]
}
describe('gas', () => {
  it('looks the same by kernels and by a shader, but for what is too little to be seen', async () => {
    const by = async (change: (s: Shot) => void, march: 'kernels' | 'shader') =>
      pixels((await (await pictures.shown(change)).render(8, { ...size, transparent: false, march })).png).data
    const [kernels, shader] = [await by(burning, 'kernels'), await by(burning, 'shader')]
    const without = (s: Shot) => {
      burning(s)
      s.gases = []
    }
    const bare = await by(without, 'kernels')
    // At the edges of objects a pixel of the picture without gas is unlike one beside it: it holds two depths.
    const at = (x: number, y: number, c: number) => (y * size.width + x) * 3 + c
    const isEdge = (x: number, y: number) =>
      [0, 1, 2].some((c) =>
        [-2, -1, 1, 2].some(
          (d) =>
            Math.abs(bare[at(x, y, c)] - (bare[at(x + d, y, c)] ?? bare[at(x, y, c)])) > 6 ||
            Math.abs(bare[at(x, y, c)] - (bare[at(x, y + d, c)] ?? bare[at(x, y, c)])) > 6,
        ),
      )
    let [sum, covered, worst, even] = [0, 0, 0, 0]
    for (let y = 0; y < size.height; y++)
      for (let x = 0; x < size.width; x++) {
        const edge = isEdge(x, y)
        if (!edge) even++
        for (let c = 0; c < 3; c++) {
          const i = at(x, y, c)
          const d = Math.abs(kernels[i] - shader[i])
          sum += d
          if (!edge) worst = Math.max(worst, d)
          if (Math.abs(kernels[i] - bare[i]) > 12) covered++
        }
      }
    expect(covered / kernels.length).toBeGreaterThan(0.04)
    expect(even / size.width / size.height).toBeGreaterThan(0.5)
    expect(sum / kernels.length).toBeLessThan(1)
    expect(worst).toBeLessThanOrEqual(4)
  })
  it('lies over black with transparency as without, and hides nothing that it does not cover', async () => {
    const [opaque, clear] = await draw(burning, [8], [false, true])
    let worst = 0
    for (let i = 0; i < size.width * size.height; i++)
      for (let c = 0; c < 3; c++) worst = Math.max(worst, Math.abs((clear[i * 4 + c] * clear[i * 4 + 3]) / 255 - opaque[i * 3 + c]))
    expect(worst).toBeLessThanOrEqual(3)
  })
  it('lights objects, throws its shadow on them, lies in theirs, and dims what shines behind it', async () => {
    /** A ball of gas at 1.5 m over a bright floor under a sun, seen from the front and a little above. */
    const floating = (o: { look?: ReturnType<typeof act>[]; roof?: boolean; glints?: boolean; muted?: boolean }) => (s: Shot) => {
      const plain = (id: string, shape: Shot['objects'][number]['shape'], place: Vec3, seen: boolean, shadow: boolean) =>
        thing(id, { shape, place, seen, shadow, material: { colour: [0.5, 0.5, 0.5], roughness: 1, metal: 0, glow: [0, 0, 0] } })
      s.objects = [
        plain('ground', { kind: 'plane', size: 12, endless: false }, [0, 0, 0], true, false),
        plain('source', primitive('sphere', { radius: 0.5 }), [0, 1.5, 0], false, false),
        ...(o.roof ? [plain('roof', primitive('box', { width: 3, height: 0.1, depth: 3 }), [0, 6, 0], true, true)] : []),
      ]
      s.systems = o.glints ? s.systems.slice(0, 1) : []
      for (const x of s.systems) {
        x.birth = [act('burst', { id: 'b', source: null, from: 'point', count: 1, at: 0, every: null, speed: 0, spread: 0 })]
        Object.assign(x, { life: 100, whole: { movement: [], contact: [], offspring: [], look: x.whole.look }, space: null })
        x.place = [0, 1.5, -1.5]
        for (const a of x.whole.look) if (a.kind === 'overLife') Object.assign(a, { size: 0.5, brightness: 1 })
      }
      s.lights = [
        { ...s.lights[0], kind: 'sun', place: [0, 9, 0.1], aim: [0, 0, 0], colour: [1, 1, 1], strength: 2, shadow: true, onGas: 100 },
      ]
      s.surroundings = { colour: [0, 0, 0], light: [0.02, 0.02, 0.02] }
      s.cameras[0] = { ...s.cameras[0], place: [0, 2.2, 6], aim: [0, 1, 0], lens: 30 }
      s.layers[0].finish = []
      s.gases = [
        gasDoc({
          ...{ voxel: 0.1, place: [0, 1.5, 0], size: [1.6, 1.6, 1.6], muted: o.muted },
          feeds: [
            act('fromObject', { id: 'feed', object: 'source', where: 'inside', end: null, densityHow: 'set', density: 1, fuelHow: 'none' }),
          ],
          look: o.look ?? [act('smoke', { id: 'smoke', extinction: 4 })],
        }),
      ]
    }
    const one = async (o: Parameters<typeof floating>[0]) => (await draw(floating(o), [2], [false]))[0]
    const [bare, lit, roofed, behind, glints] = [
      await one({ muted: true }),
      await one({}),
      await one({ roof: true }),
      await one({ glints: true }),
      await one({ glints: true, muted: true }),
    ]
    const under = [0.45, 0.66, 0.55, 0.72]
    const there = [0.46, 0.33, 0.54, 0.42]
    expect(mean(lit, under)).toBeLessThan(0.75 * mean(bare, under))
    expect(mean(lit, there)).toBeGreaterThan(20)
    expect(mean(roofed, there)).toBeLessThan(0.5 * mean(lit, there))
    // What a glint adds to the picture is less with the gas before it.
    expect(mean(behind, there) - mean(lit, there)).toBeLessThan(0.6 * (mean(glints, there) - mean(bare, there)))
    const glow = await one({ look: [act('glow', { id: 'glow', by: 'density', colour: 'ramp', strength: 8 })] })
    expect(mean(glow, under)).toBeGreaterThan(1.1 * mean(bare, under))
  })
})
