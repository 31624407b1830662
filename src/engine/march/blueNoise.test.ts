import { describe, expect, it } from 'vitest'
import { BLUE_NOISE as SIDE } from '../memory'
import { blueNoise } from './blueNoise'
import { voidAndCluster } from './testing/voidAndCluster'

describe('blue noise', () => {
  const tile = blueNoise()
  it('has every value once', () => {
    const sorted = [...tile].sort((a, b) => a - b)
    sorted.forEach((v, n) => expect(v).toBeCloseTo((n + 0.5) / SIDE ** 2, 6))
  })
  it('is what void and cluster makes', () => {
    const ranks = voidAndCluster()
    expect([...tile]).toEqual([...Float32Array.from(ranks, (n) => (n + 0.5) / SIDE ** 2)])
  })
  it('has hardly any power at low frequencies, where white noise has as much as everywhere', () => {
    const power = (u: number, v: number) => {
      let [re, im] = [0, 0]
      tile.forEach((x, n) => {
        const a = (2 * Math.PI * (u * (n % SIDE) + v * Math.floor(n / SIDE))) / SIDE
        re += (x - 0.5) * Math.cos(a)
        im += (x - 0.5) * Math.sin(a)
      })
      // White noise of the same variance has 1.
      return (re * re + im * im) / (SIDE ** 2 / 12)
    }
    const low = [1, 2, 3, 4, 6].flatMap((u) => [power(u, 0), power(0, u), power(u, u)])
    expect(low.reduce((a, b) => a + b) / low.length).toBeLessThan(0.05)
    const high = [20, 24, 28].flatMap((u) => [power(u, 3), power(3, u), power(u, u)])
    expect(high.reduce((a, b) => a + b) / high.length).toBeGreaterThan(0.5)
  })
})
