import { describe, expect, it } from 'vitest'
import { type VolumePart, volumeAt, volumeVoxels } from '../frame'
import { apply, compose, identity, invert, type Matrix } from '../math'
import type { Machine } from '../memory'
import type { PlanGas, StoredCopy } from '../plan'
import { CELL, dense, stored as volume } from '../testing/stored'
import { StoredGas } from './stored'

const AMOUNTS: StoredCopy['amounts'] = { density: { grid: 'density', times: 1 }, temperature: { grid: 'temperature', times: 1, less: 293 } }
const copy = (matrix: Matrix, amounts = AMOUNTS): StoredCopy => ({ volume, matrix, amounts })
// Without particles that ask for it, it takes nothing of a memory.
const machine = null as unknown as Machine
const PLAN = { id: 'g', name: 'g', voxel: CELL } as PlanGas
function gas(copies: StoredCopy[], o: Partial<PlanGas> = {}): StoredGas {
  return new StoredGas(machine, { ...PLAN, ...o, stored: () => ({ key: copies.map((c) => c.matrix.join()).join('|'), copies }) })
}
const captured = (g: StoredGas): VolumePart => g.capture(0)[0]
/** Places in the shot where copies of the cloud are. */
const places = Float32Array.from({ length: 300 }, (_, i) => Math.sin(i * 12.9898) * 0.9)
const wanted = (matrices: readonly Matrix[]) =>
  Float32Array.from({ length: places.length / 3 }, (_, n) =>
    matrices.reduce((sum, m) => {
      const p = apply(invert(m) as Matrix, places[n * 3], places[n * 3 + 1], places[n * 3 + 2])
      return sum + dense(p[0], p[1], p[2])
    }, 0),
  )
const far = (a: Float32Array, b: Float32Array) => a.reduce((m, v, i) => Math.max(m, Math.abs(v - b[i])), 0)

describe('a gas that files say', () => {
  it('is the numbers of the file where their voxels lie on its own, and says heat over the air', () => {
    const part = captured(gas([copy(identity())]))
    const at = Float32Array.from([0, 0, 0, 0.1, -0.2, 0.3, -0.55, 0, 0])
    const d = volumeAt(part, 'density', at)
    const t = volumeAt(part, 'temperature', at)
    for (const [i, [x, y, z]] of [
      [0, 0, 0],
      [0.1, -0.2, 0.3],
      [-0.55, 0, 0],
    ].entries()) {
      expect(d[i]).toBeCloseTo(dense(x, y, z), 3)
      expect(Math.abs(t[i] - 500 * dense(x, y, z))).toBeLessThan(0.5)
    }
    // Tiles that hold nothing are not kept.
    expect(volumeVoxels(part)).toBeLessThan(32 ** 3 + 1)
  })
  it('stands as its matrix says: moved, turned, scaled, many in one', () => {
    const matrices = [
      compose([0.2, -0.1, 0.3], [0, 0, 0], [1, 1, 1]),
      compose([-0.5, 0.2, 0], [30, 50, -20], [0.8, 0.8, 0.8]),
      compose([0.3, 0.5, -0.6], [0, 90, 0], [1.2, 0.7, 1]),
    ]
    for (const some of [matrices.slice(0, 1), matrices.slice(1, 2), matrices]) {
      const part = captured(gas(some.map((m) => copy(m))))
      // Twice trilinear, a cone loses most at its tip.
      expect(far(volumeAt(part, 'density', places), wanted(some))).toBeLessThan(0.09)
    }
  })
  it('adds up densities, and is as hot as the hottest', () => {
    const twice = captured(gas([copy(identity()), copy(identity())]))
    const once = captured(gas([copy(identity())]))
    const at = Float32Array.from([0.1, 0.1, 0])
    expect(volumeAt(twice, 'density', at)[0] / volumeAt(once, 'density', at)[0]).toBeCloseTo(2, 2)
    expect(volumeAt(twice, 'temperature', at)[0]).toBe(volumeAt(once, 'temperature', at)[0])
  })
  it('takes so many times a grid, and dyes only if it has them', () => {
    const amounts = { density: { grid: 'density', times: 3 }, dyeB: { grid: 'density', times: 0.5 }, flame: { grid: 'none', times: 1 } }
    const plain = captured(gas([copy(identity(), amounts)]))
    const dyed = captured(gas([copy(identity(), amounts)], { dyes: ['dyeB'] }))
    const at = Float32Array.from([0.1, 0.1, 0])
    expect(volumeAt(plain, 'density', at)[0]).toBeCloseTo(3 * dense(0.1, 0.1, 0), 1)
    expect(volumeAt(dyed, 'dyeB', at)[0]).toBeCloseTo(0.5 * dense(0.1, 0.1, 0), 1)
    expect(volumeAt(plain, 'dyeB', at)[0]).toBe(0)
  })
  it('goes along with what it holds, and keeps what has not changed', () => {
    let x = 0
    const at = () => [copy(compose([x, 0, 0], [0, 0, 0], [1, 1, 1]))]
    const g = new StoredGas(machine, { ...PLAN, stored: () => ({ key: `${x}`, copies: at() }) })
    const part = captured(g)
    expect(captured(g).data).toBe(part.data)
    x = 7.013
    const moved = captured(g)
    // Its voxels go along with it, so nothing of it changes.
    expect(moved.data).toEqual(part.data)
    moved.low.forEach((v, a) => {
      expect(v - part.low[a]).toBeCloseTo(a ? 0 : 7.013, 9)
    })
  })
  it('says what is left out of one that is too large for its voxels', () => {
    const g = gas([copy(identity()), copy(compose([500, 0, 0], [0, 0, 0], [1, 1, 1]))], { voxel: 0.05 })
    expect(captured(g).tiles).toBeGreaterThan(0)
    expect(g.notices[0].message).toMatch(/larger than .*make its voxels larger/)
  })
})
