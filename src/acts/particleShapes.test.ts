import { describe, expect, it } from 'vitest'
import { boundsOf, identity, partsOf, pointColumn } from '../engine'
import { isVaried, type ObjectDoc, type Shot } from '../shot'
import { checkShot, drawnPlaces, drawsOf, ownShapes, particleShape, shapeValues, touchedFrom } from '.'
import { withShape } from './particleShapes'
import { act, after, quiet } from './testing/quiet'
import { primitive, thing } from './testing/things'

const model = (values: Partial<ObjectDoc> = {}): ObjectDoc =>
  thing('model', {
    shape: primitive('box', { width: 1, height: 2, depth: 1 }),
    reshape: [
      act('subdivide', { id: 'cut', times: 1 }),
      act('taper', { id: 'slim', low: 100, high: 50 }),
      act('noise', { id: 'rough', height: 0 }),
    ],
    ...values,
  })
const map = (values: Record<string, unknown>) => act('mapShape', { by: 'random', ...values })
const shotOf = (look: ReturnType<typeof act>[], object = model(), solid: Record<string, unknown> = {}): Shot => {
  const s = quiet((d) => {
    d.objects = [object]
    d.systems[0].whole.look = [act('solid', { body: 'object', object: 'model', ...solid }), ...look]
  })
  const checked = checkShot(s)
  if (!checked.ok) throw new Error(JSON.stringify(checked.problems))
  return checked.shot
}
async function shapesOf(s: Shot, frames = 12) {
  const frame = await after(s, frames)
  const [part] = partsOf(frame.parts, 'points')
  const t = frames / 24
  const [draw] = drawsOf(s, s.systems[0], t, frame.parts)
  if (!draw.solid) throw new Error('no solid')
  const own = ownShapes(part, drawnPlaces(part, [[]]), draw.shapes, draw.solid, identity(), t, 1 / 24)
  const mesh = (i: number) => {
    const m = particleShape(s, new Map(), s.objects[0], draw.shapes, own(i))
    if (!m) throw new Error('no shape')
    return m
  }
  return { part, own, mesh }
}

describe('values of a shape', () => {
  it('are its numbers, those of its steps, and their seeds', () => {
    const values = shapeValues(model())
    expect(values.map((v) => v.path)).toEqual(
      expect.arrayContaining(['shape.width', 'shape.height', 'acts.cut.times', 'acts.slim.high', 'acts.rough.height', 'acts.rough.seed']),
    )
    expect(values.find((v) => v.path === 'acts.slim.high')?.label).toBe('Taper, high end')
  })
  it('of a particle replace them, within their bounds; what the object does not have says nothing', () => {
    const o = withShape(model(), [
      { path: 'shape.width', v: 3 },
      { path: 'acts.cut.times', v: 1.6 },
      { path: 'acts.slim.low', v: -20 },
      { path: 'acts.rough.seed', v: 12.2 },
      { path: 'acts.gone.low', v: 1 },
      { path: 'shape.radius', v: 1 },
    ])
    expect(o.shape).toEqual({ ...model().shape, width: 3 })
    expect(o.reshape).toMatchObject([{ times: 2 }, { low: 0, high: 50 }, { seed: 12 }])
    expect(isVaried(o.reshape[1].low)).toBe(false)
  })
})
describe('a shape for every particle', () => {
  it('goes by a mapping, in as many steps as are shared', async () => {
    const to = { value: { element: 'model', value: 'shape.height' }, low: 1, high: 3 }
    const each = await shapesOf(shotOf([map({ ...to, shared: 0 })]))
    const heights = Array.from({ length: each.part.count }, (_, i) => each.own(i).values[0] as number)
    expect(new Set(heights).size).toBe(each.part.count)
    heights.forEach((h, i) => {
      const { min, max } = boundsOf(each.mesh(i))
      expect(max[1] - min[1]).toBeCloseTo(h, 5)
    })
    const few = await shapesOf(shotOf([map({ ...to, shared: 25 })]))
    for (let i = 0; i < few.part.count; i++) expect([1, 1.5, 2, 2.5, 3]).toContain(few.own(i).values[0])
    const meshes = new Set(Array.from({ length: few.part.count }, (_, i) => few.mesh(i)))
    expect(meshes.size).toBeLessThanOrEqual(5)
    for (let i = 0; i < few.part.count; i++)
      expect(Math.abs((few.own(i).values[0] as number) - heights[i])).toBeLessThanOrEqual(0.25 + 1e-6)
  })
  it('has several values, each by its own number', async () => {
    const { own, part, mesh } = await shapesOf(
      shotOf([
        map({ id: 'a', seed: 1, value: { element: 'model', value: 'acts.slim.high' }, low: 0, high: 100, shared: 0 }),
        map({ id: 'b', seed: 2, value: { element: 'model', value: 'shape.width' }, low: 1, high: 2, shared: 0 }),
        map({ id: 'c', value: { element: 'elsewhere', value: 'shape.width' }, low: 9, high: 9, shared: 0 }),
      ]),
    )
    for (let i = 0; i < part.count; i += 7) {
      const [slim, width] = own(i).values as number[]
      const p = mesh(i).positions
      const at = (top: boolean) =>
        Math.max(
          ...Array.from({ length: p.length / 3 }, (_, v) => (p[v * 3 + 1] > 0.9 === top && Math.abs(p[v * 3 + 1]) > 0.9 ? p[v * 3] : 0)),
        )
      expect([at(false), at(true)]).toEqual([expect.closeTo(width / 2, 4), expect.closeTo((width / 2) * (slim / 100), 4)])
    }
  })
  it('of an object that changes is that of its birth, of a moment, or of one before or after', async () => {
    const growing = model({ shape: { ...primitive('box'), height: { keys: [{ t: 0, v: 1, ease: 'linear' }, { t: 1, v: 2, ease: 'linear' }] } } as never, reshape: [] }) // biome-ignore format: one line
    const height = async (solid: Record<string, unknown>) => {
      const { part, mesh } = await shapesOf(shotOf([], growing, solid))
      return Array.from({ length: part.count }, (_, i) => boundsOf(mesh(i)).max[1] * 2)
    }
    for (const h of await height({ moment: 'now' })) expect(h).toBeCloseTo(1.5, 4)
    // All are born at the first frame.
    for (const h of await height({ moment: 'birth' })) expect(h).toBeCloseTo(1, 4)
    for (const h of await height({ moment: 'fixed', at: 0.75 })) expect(h).toBeCloseTo(1.75, 4)
    for (const h of await height({ moment: 'later', later: { value: -0.25, vary: 0 } })) expect(h).toBeCloseTo(1.25, 4)
    const spread = await height({ moment: 'later', later: { value: 0, vary: 0.25 } })
    expect([Math.min(...spread) < 1.35, Math.max(...spread) > 1.65]).toEqual([true, true])
    expect(Math.max(...spread.map((h) => Math.abs(h - 1.5)))).toBeLessThan(0.25 + 1 / 24)
  })
  it('is the same mesh while no object is edited, and runs nothing again', async () => {
    const s = shotOf([map({ value: { element: 'model', value: 'shape.height' }, low: 1, high: 3, shared: 50 })])
    const { mesh } = await shapesOf(s)
    expect(mesh(3)).toBe(mesh(3))
    const edited = structuredClone(s)
    Object.assign(edited.systems[0].whole.look.at(-1) as object, { high: 5 })
    expect(touchedFrom(s, edited)).toBe(null)
    expect(pointColumn((await shapesOf(s)).part, 'id')).toHaveLength(50)
  })
})
