import { deflateSync } from 'node:zlib'
import { type FogLook, FogMaker, Heap, type MarchScene, SCRATCH, toHalf, type VolumePart } from '../../engine'
import { gasVdb, openVdb, readTree, type VdbPacking } from '../../formats/vdb'
import { nodeKernels } from '../node/kernels'

const ROUNDS = 7
const FOG_BYTES = 256 * 1024 * 1024
/** A ball of smoke with ripples in n³ voxels: density, heat, flame and a dye. */
function smoke(n: number): VolumePart {
  const side = n / 8
  const tiles = side ** 3
  const data = new ArrayBuffer(tiles * (4 + 4 * 1024))
  const words = new Uint32Array(data, 0, tiles)
  const halves = new Uint16Array(data, tiles * 4)
  for (let t = 0; t < tiles; t++) {
    const at = [t % side, Math.floor(t / side) % side, Math.floor(t / side / side)]
    words[t] = at[0] | (at[1] << 10) | (at[2] << 20)
    for (let i = 0; i < 512; i++) {
      const [x, y, z] = [at[0] * 8 + (i & 7), at[1] * 8 + ((i >> 3) & 7), at[2] * 8 + (i >> 6)]
      const r = Math.hypot(x - n / 2, y - n / 2, z - n / 2) / (n / 2)
      const v = Math.max(0, (1 - r) * (1 + 0.5 * Math.sin(x * 0.7) * Math.cos(y * 0.9 + z * 0.4)))
      for (const [g, of] of [v, v * 900, v > 0.5 ? v : 0, v * 0.3].entries()) halves[t * 2048 + g * 512 + i] = toHalf(of)
    }
  }
  return { kind: 'volume', element: 'smoke', dyes: ['dyeA'], voxel: 0.05, low: [0, 0, 0], tiles, data }
}
const written = (part: VolumePart, packing: VdbPacking, grids?: string[]) =>
  gasVdb(part, {
    ...{ frame: 1, rate: 24, name: 'smoke', half: true, packing, deflate: (b: Uint8Array) => deflateSync(b, { level: 1 }) },
    ...(grids ? { grids } : {}),
  })
function read(bytes: Uint8Array): void {
  const file = openVdb(bytes)
  if (!file.ok) throw new Error(file.problem.message)
  for (const g of file.value.grids) {
    const tree = readTree(bytes, file.value, g)
    if (!tree.ok) throw new Error(tree.problem.message)
  }
}
const FOG: FogLook = {
  ...{ extinction: 0.06, level: 0.3, halves: 1.2, albedo: [0.8, 0.85, 0.9], forward: 0.5, surroundings: 1 },
  patches: { amount: 0.5, size: 3, drift: [0, 0, 0], phase: 0.3, seed: 4 },
}
const SCENE: MarchScene = {
  above: [0.1, 0.1, 0.12],
  below: [0.05, 0.05, 0.05],
  lights: [
    { place: [-0.5, 0.8, 0.3], sun: true, colour: [1, 1, 1], spot: null },
    { place: [0, 3, 0], sun: false, colour: [9, 6, 3], spot: null },
    ...[-3, 3].map((x) => ({
      ...{ place: [x, 0.3, 1] as [number, number, number], sun: false, colour: [90, 70, 50] as [number, number, number] },
      spot: { aim: [0, 1, 0] as [number, number, number], from: Math.cos(0.2), to: Math.cos(0.15) },
    })),
  ],
}
const VIEW = { eye: [0.5, 1.4, 8.4], ahead: [0, 0.1, -0.995], right: [0.5, 0, 0], up: [0, 0.28, 0] } as const

/** Milliseconds of files of sparse grids, on one thread, and of fog; the median of some rounds. */
export async function benchVolumes(
  say: (line: { kernel: string; what: string; threads: number; ms: number; best: number }) => void,
): Promise<void> {
  const measure = (kernel: string, what: string, work: () => unknown, threads = 1) => {
    const times = Array.from({ length: ROUNDS }, () => {
      const start = performance.now()
      work()
      return performance.now() - start
    }).sort((a, b) => a - b)
    say({ kernel, what, threads, ms: Math.round(times[ROUNDS >> 1]), best: Math.round(times[0]) })
  }
  const part = smoke(128)
  for (const packing of ['blosc', 'zip'] as const)
    measure(`vdb write ${packing}`, '128³, four grids of halves', () => written(part, packing))
  const large = smoke(200)
  for (const packing of ['blosc', 'zip'] as const) {
    const bytes = written(large, packing, ['density', 'temperature'])
    measure(`vdb read ${packing}`, `200³, two grids of halves, ${(bytes.length / 1048576).toFixed(1)} MB`, () => read(bytes))
  }
  for (const threads of [1, 2]) {
    const host = await nodeKernels({ threads })
    const heap = new Heap(host.memory, FOG_BYTES)
    const maker = new FogMaker({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
    for (const [width, height, depths] of [
      [128, 72, 32],
      [320, 180, 56],
    ])
      measure(
        'fog',
        `${width} × ${height} × ${depths}, four lights, patches`,
        () => maker.front([FOG], SCENE, VIEW, { width, height, depths, reach: 34 }),
        threads,
      )
    host.team.dispose()
  }
}
