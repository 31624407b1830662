import { describe, expect, it } from 'vitest'
import { costOf } from './gasCost'

const gas = { size: [1, 2, 1] as [number, number, number], voxel: 0.1, detail: 1, detailIn: 'view' as const }
describe('what a gas costs', () => {
  it('goes by its voxels: half as large is eight times as many', () => {
    const a = costOf(gas, 0.002)
    expect(a.cells).toEqual([10, 20, 10])
    expect(a.frameMs).toBeCloseTo(4)
    const b = costOf({ ...gas, voxel: 0.05 }, 0.002)
    for (const k of ['voxels', 'workingBytes', 'frameBytes', 'frameMs'] as const) expect(b[k] / a[k]).toBeCloseTo(8)
  })
  it('counts finer cells where the View has them', () => {
    const plain = costOf(gas, 0.002)
    const fine = costOf({ ...gas, detail: 3 }, 0.002)
    expect(fine.voxels).toBe(27 * plain.voxels)
    expect(fine.frameBytes).toBe(27 * plain.frameBytes)
    expect(fine.frameMs).toBeGreaterThan(plain.frameMs)
    expect(costOf({ ...gas, detail: 3, detailIn: 'renders' }, 0.002)).toEqual(plain)
  })
})
