import { describe, expect, it } from 'vitest'
import { isClosed } from './mesh'
import { surfaceNets } from './surfaceNets'

const N = 24
const field = (f: (x: number, y: number, z: number) => number): Float32Array =>
  Float32Array.from({ length: N ** 3 }, (_, i) => f(i % N, Math.floor(i / N) % N, Math.floor(i / N / N)))

describe('surface nets', () => {
  it('makes a closed ball whose faces look outwards, of the volume and radius that it has', () => {
    const r = 8.3
    const ball = field((x, y, z) => Math.hypot(x - 11.5, y - 11.2, z - 11.8) - r)
    const mesh = surfaceNets(ball, [N, N, N], (x, y, z) => [x - 11.5, y - 11.2, z - 11.8])
    expect(isClosed(mesh)).toBe(true)
    const p = mesh.positions
    for (let i = 0; i < p.length; i += 3) expect(Math.abs(Math.hypot(p[i], p[i + 1], p[i + 2]) - r)).toBeLessThan(0.12)
    let volume = 0
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => [0, 1, 2].map((q) => p[mesh.indices[t + k] * 3 + q]))
      volume += (a[0] * (b[1] * c[2] - b[2] * c[1]) + a[1] * (b[2] * c[0] - b[0] * c[2]) + a[2] * (b[0] * c[1] - b[1] * c[0])) / 6
    }
    expect(Math.abs(volume / ((4 / 3) * Math.PI * r ** 3) - 1)).toBeLessThan(0.02)
  })
  it('is empty where nothing passes through zero, and open where it leaves the grid', () => {
    expect(
      surfaceNets(
        field(() => 1),
        [N, N, N],
        (x, y, z) => [x, y, z],
      ).indices,
    ).toHaveLength(0)
    const plane = surfaceNets(
      field((_, y) => y - 9.25),
      [N, N, N],
      (x, y, z) => [x, y, z],
    )
    expect(isClosed(plane)).toBe(false)
    expect([...plane.positions].filter((_, i) => i % 3 === 1).every((y) => Math.abs(y - 9.25) < 1e-5)).toBe(true)
  })
})
