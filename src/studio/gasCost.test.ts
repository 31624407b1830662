import { describe, expect, it, vi } from 'vitest'
import { costOf, paceHere, rememberPace } from './gasCost'

const gas = { size: [1, 2, 1] as [number, number, number], voxel: 0.1, detail: 1, detailIn: 'view' as const }
describe('what a gas costs', () => {
  it('goes by its voxels: half as large is eight times as many', () => {
    const a = costOf(gas, 0.002)
    expect(a.cells).toEqual([10, 20, 10])
    expect(a.frameMs).toBeCloseTo(4)
    const b = costOf({ ...gas, voxel: 0.05 }, 0.002)
    for (const k of ['voxels', 'workingBytes', 'frameBytes', 'frameMs'] as const) expect(b[k] / a[k]).toBeCloseTo(8)
  })
  it('is what was measured last, finer cells counted as what they take', () => {
    expect(paceHere().ms).toBeGreaterThan(0)
    const kept = new Map<string, string>()
    vi.stubGlobal('localStorage', { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) })
    try {
      expect(paceHere().measured).toBe(false)
      for (const detail of [1, 2]) {
        const full = costOf({ ...gas, size: [4, 8, 4], detail }, 0.003)
        rememberPace({ ...gas, detail }, { ms: full.frameMs, voxels: full.voxels })
        expect(paceHere().measured).toBe(true)
        expect(paceHere().ms).toBeCloseTo(0.003, 9)
      }
      // Too little to tell.
      rememberPace(gas, { ms: 900, voxels: 100 })
      expect(paceHere().ms).toBeCloseTo(0.003, 9)
    } finally {
      vi.unstubAllGlobals()
    }
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
