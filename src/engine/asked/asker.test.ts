import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { nodeKernels } from '../../hosts/node/kernels'
import { type AskedPlaces, Asker, compose, Heap, hash3, identity, type KernelHost, SCRATCH, unit, type VolumePart, volumeAt } from '..'
import { boxMesh, sphereMesh } from '../testing/meshes'

const hosts: KernelHost[] = []
let askers: Asker[]
beforeAll(async () => {
  askers = []
  for (const threads of [1, 3]) {
    const host = await nodeKernels({ threads })
    hosts.push(host)
    const heap = new Heap(host.memory, 512 * 1024 * 1024)
    askers.push(new Asker({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) }))
  }
})
afterAll(() => {
  for (const h of hosts) h.team.dispose?.()
})
/** Places within a box of so many metres about the middle. */
function places(n: number, wide = 4, seed = 1): AskedPlaces {
  const column = (c: number) => Float32Array.from({ length: n }, (_, i) => (unit(hash3(seed, i, c)) - 0.5) * wide)
  return { x: column(0), y: column(1), z: column(2) }
}
const at = ({ x, y, z }: AskedPlaces, i: number) => [x[i], y[i], z[i]]
/** The answer, which is the same on one thread and on three. */
function same(ask: (a: Asker) => Float32Array): Float32Array {
  const [one, three] = askers.map(ask)
  expect(new Uint32Array(three.buffer)).toEqual(new Uint32Array(one.buffer))
  return one
}
/** Signed distance to a box about the middle. */
function toBox(p: readonly number[], half: readonly number[]): number {
  const q = p.map((v, a) => Math.abs(v) - half[a])
  return Math.hypot(...q.map((v) => Math.max(v, 0))) + Math.min(Math.max(...q), 0)
}

describe('what is asked of places', () => {
  it('is how far a closed mesh is, below zero inside, wherever it and the places stand', () => {
    const p = places(3000)
    const box = boxMesh([1, 2, 0.5])
    const plain = same((a) => a.distance(p, identity(), box, identity()))
    for (let i = 0; i < 3000; i++) expect(plain[i]).toBeCloseTo(toBox(at(p, i), [0.5, 1, 0.25]), 4)
    // The system stands a metre to the right, the box is twice as large and turned by a quarter about Z.
    const found = same((a) => a.distance(p, compose([1, 0, 0], [0, 0, 0], [1, 1, 1]), box, compose([0, 0, 0], [0, 0, 90], [2, 2, 2])))
    for (let i = 0; i < 3000; i++) expect(found[i]).toBeCloseTo(toBox([p.x[i] + 1, p.y[i], p.z[i]], [2, 1, 0.5]), 4)
  })
  it('holds in metres of the shot where a mesh is scaled unevenly', () => {
    const p = places(2000)
    const found = same((a) => a.distance(p, identity(), boxMesh([1, 1, 1]), compose([0, 0, 0], [0, 0, 0], [1, 3, 0.2])))
    for (let i = 0; i < 2000; i++) expect(found[i]).toBeCloseTo(toBox(at(p, i), [0.5, 1.5, 0.1]), 4)
  })
  it('is the amount of a region at the nearest place', () => {
    const ball = sphereMesh(1, 48)
    const amounts = Float32Array.from({ length: ball.positions.length / 3 }, (_, i) => 0.5 + 0.5 * ball.positions[i * 3 + 1])
    const p = places(2000)
    const found = same((a) => a.amount(p, identity(), ball, identity(), amounts))
    for (let i = 0; i < 2000; i++) {
      const [x, y, z] = at(p, i)
      const far = Math.hypot(x, y, z)
      // The middle is as far from everywhere, and faces are flat.
      if (far > 0.3) expect(Math.abs(found[i] - (0.5 + (0.5 * y) / far))).toBeLessThan(0.015)
    }
  })
  it('is what a gas holds there, as plain code has it', () => {
    const tiles = [
      [1, 2, 0],
      [2, 2, 0],
      [1, 2, 1],
    ]
    const data = new ArrayBuffer(tiles.length * (4 + 3 * 1024))
    tiles.forEach(([i, j, k], n) => (new Uint32Array(data)[n] = i | (j << 10) | (k << 20)))
    const halves = new Uint16Array(data, tiles.length * 4)
    // Bits of halves from 0 to about 2, small ones too.
    for (let i = 0; i < halves.length; i++) halves[i] = hash3(3, i, 0) % 0x4000
    const part: VolumePart = { kind: 'volume', element: 'g', voxel: 0.1, low: [-1.5, -2.4, -0.5], tiles: tiles.length, data }
    const p = places(4000, 2)
    const from = compose([0.2, -0.1, 0.1], [0, 30, 0], [1, 1, 1])
    const there = Float32Array.from(
      Array.from({ length: 4000 }, (_, i) => at(p, i)).flatMap(([x, y, z]) =>
        [0, 4, 8].map((r) => from[r] * x + from[r + 1] * y + from[r + 2] * z + from[r + 3]),
      ),
    )
    for (const grid of ['density', 'flame'] as const) {
      const found = same((a) => a.gas(p, from, part, grid))
      const told = volumeAt(part, grid, there)
      expect(told.filter((v) => v > 0).length).toBeGreaterThan(300)
      for (let i = 0; i < 4000; i++) expect(Math.abs(found[i] - told[i])).toBeLessThan(1e-3)
    }
  })
  it('is how many others are near', () => {
    const p = places(1500, 2)
    const found = same((a) => a.near(p, 0.25))
    for (let i = 0; i < 1500; i += 7) {
      let n = 0
      for (let j = 0; j < 1500; j++) if (j !== i && Math.hypot(p.x[i] - p.x[j], p.y[i] - p.y[j], p.z[i] - p.z[j]) < 0.25) n++
      expect(found[i]).toBe(n)
    }
  })
})
describe('the order of particles by their depth', () => {
  it.each([5, 1000, 40_000])('is exact, and at equal depths that of their numbers: %i', (n) => {
    const p = places(n, 50)
    // Many at one depth, on both sides of the eye.
    for (let i = 0; i < n; i++) if (i % 3 === 0) p.z[i] = Math.round(p.z[i])
    p.x.fill(0)
    p.y.fill(0)
    const order = askers.map((a) => a.order({ ...p }, [0, 0, 1], [0, 0, -1]))
    expect(order[1]).toEqual(order[0])
    const depth = Float32Array.from(p.z, (z) => Math.fround(-z) + 1)
    const told = Uint32Array.from({ length: n }, (_, i) => i).sort((a, b) => depth[b] - depth[a] || a - b)
    expect(order[0].depth).toEqual(depth)
    expect(order[0].order).toEqual(told)
  })
})
