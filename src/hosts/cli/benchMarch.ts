import {
  type Cloud,
  Heap,
  hash3,
  Marcher,
  type MarchLook,
  type MarchScene,
  type MarchView,
  SCRATCH,
  unit,
  type VolumePart,
} from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'
import type { BenchWorld } from './benchWorld'

/** Voxels along a side, and pixels of the picture. */
export const MARCH_VOXELS = 128
export const MARCH_PIXELS = 1280 * 720
const TILES = MARCH_VOXELS / 8

/** Gradient noise, and round lumps between creases, about 0 to 1: those of the native reference. */
function noise(x: number, y: number, z: number): number {
  const f = [Math.floor(x), Math.floor(y), Math.floor(z)]
  const p = [x - f[0], y - f[1], z - f[2]]
  const u = p.map((t) => t * t * t * (t * (t * 6 - 15) + 10))
  let sum = 0
  for (let c = 0; c < 8; c++) {
    const o = [c & 1, (c >> 1) & 1, c >> 2]
    let h = Math.imul(f[0] + o[0], 0x27d4eb2d) ^ Math.imul(f[1] + o[1], 0x165667b1) ^ Math.imul(f[2] + o[2], 0x9e3779b1)
    h = Math.imul(h ^ (h >>> 15), 0x85ebca6b)
    h ^= h >>> 13
    let [g, w] = [0, 1]
    for (let a = 0; a < 3; a++) {
      g += (((h >>> (a * 10)) & 1023) / 511.5 - 1) * (p[a] - o[a])
      w *= o[a] ? u[a] : 1 - u[a]
    }
    sum += g * w
  }
  return sum
}
function billow(x: number, y: number, z: number): number {
  let sum = 0
  let [px, py, pz] = [x, y, z]
  for (let o = 0, amp = 1; o < 5; o++, amp *= 0.5) {
    sum += amp * Math.abs(noise(px, py, pz))
    ;[px, py, pz] = [px * 2.03 + 7, py * 2.03 + 3, pz * 2.03 + 5]
  }
  return sum * 1.3
}
const clamp = (v: number) => Math.min(1, Math.max(0, v))
const half = (v: number): number => {
  if (v < 2 ** -14) return Math.round(v * 2 ** 24)
  const e = Math.floor(Math.log2(v))
  return ((e + 15) << 10) + Math.round((v / 2 ** e - 1) * 1024)
}
let made: VolumePart | null = null
/** A billowing column with a hot foot in 128³ voxels of a metre. */
function column(): VolumePart {
  if (made) return made
  const balls = Array.from({ length: 24 }, (_, q) => {
    const h = q / 23
    const r = 7 + 20 * h
    return [
      50 + 20 * h + r * 0.62 * Math.cos(q * 2.4),
      9 + 88 * h,
      64 + r * 0.62 * Math.sin(q * 2.4),
      r * (0.8 + 0.3 * unit(hash3(1, q, 0))),
    ]
  })
  const at = (x: number, y: number, z: number): [number, number] => {
    const far = Math.max(...balls.map((b) => 1 - Math.hypot(x - b[0], y - b[1], z - b[2]) / b[3]))
    if (far < -0.7) return [0, 0]
    const n = billow(x * 0.045, y * 0.045, z * 0.045)
    const d = clamp((far + 1.15 * n - 0.42) * 3.2)
    return [d, d * clamp(1.15 - y / 46 + 0.5 * (n - 0.5)) * clamp(far * 2.2 + n - 0.45)]
  }
  const tiles: { place: number; halves: Uint16Array }[] = []
  for (let t = 0; t < TILES ** 3; t++) {
    const low = [t % TILES, Math.floor(t / TILES) % TILES, Math.floor(t / TILES ** 2)]
    const halves = new Uint16Array(3 * 512)
    let holds = false
    for (let c = 0; c < 512; c++) {
      const [d, hot] = at(low[0] * 8 + (c & 7) + 0.5, low[1] * 8 + ((c >> 3) & 7) + 0.5, low[2] * 8 + (c >> 6) + 0.5)
      halves[c] = half(d)
      halves[512 + c] = half(hot * 1000)
      halves[1024 + c] = half(hot)
      if (d > 0.002) holds = true
    }
    if (holds) tiles.push({ place: low[0] | (low[1] << 10) | (low[2] << 20), halves })
  }
  const data = new ArrayBuffer(tiles.length * (4 + 3072))
  tiles.forEach((t, n) => {
    new Uint32Array(data, 0, tiles.length)[n] = t.place
    new Uint16Array(data, tiles.length * 4 + n * 3072, 1536).set(t.halves)
  })
  made = { kind: 'volume', element: 'gas', voxel: 1, low: [0, 0, 0], tiles: tiles.length, data }
  return made
}
const straight = Float32Array.from({ length: 256 }, (_, i) => i / 255)
const ramp = Float32Array.from({ length: 256 }, (_, i) => i / 255)
const LOOK = (): MarchLook => ({
  tops: [1, 1000, 1],
  smoke: { by: 0, tone: straight, extinction: 0.3, albedo: [1, 1, 1], forward: 0.45, even: 0, shade: 0.4, again: 0 },
  glow: {
    ...{ by: 2, tone: straight.map((x) => x * 0.6), coloursBy: 2 },
    colours: Float32Array.from([...ramp].flatMap((x) => [2.6 * x, 1.5 * x * x, 0.9 * x ** 4, 0])),
  },
})
const SCENE: MarchScene = {
  lights: [
    { place: [0.64, 0.768, -0.024], sun: true, colour: [28, 27, 24], spot: null },
    { place: [22, 30, 12], sun: false, colour: [12000, 21000, 38000], spot: null },
  ],
  above: [0.09, 0.11, 0.16],
  below: [0.09, 0.11, 0.16],
}
const EYE = [64, 60, -185] as const
const VIEW: MarchView = {
  ...{ eye: EYE, ahead: [0, 0, 1], right: [0.569, 0, 0], up: [0, 0.32, 0], width: 1280, height: 720, depth: null, stride: 0.5, wide: 2 },
}

const TUFTS = 100_000
let tufts: Cloud | null = null
/** The leaning, lumpy column of soft puffs of the native reference, in voxels of a metre; new at every step, as the frames of a system are. */
function puffs(): Cloud {
  if (tufts) return { ...tufts }
  const balls = new Float32Array(TUFTS * 5)
  for (let i = 0; i < TUFTS; i++) {
    const u = (k: number) => unit(hash3(3, i, k))
    const [h, a] = [u(0), u(1) * 2 * Math.PI]
    const q = Math.sqrt(u(2)) * (16 + 26 * h) * (1 + 0.3 * Math.sin(5 * a + 9 * h))
    balls.set([50 + 30 * h + q * Math.cos(a), 4 + 118 * h, 64 + q * Math.sin(a), 1.2 + 0.6 * u(3), 0.02 + 0.04 * u(4)], i * 5)
  }
  tufts = { count: TUFTS, balls, most: 1.05 * MARCH_VOXELS ** 3 }
  return { ...tufts }
}
/** As the native reference: many small tufts, spread into a grid, and the light of a sun and a lamp through them. */
export async function benchTufts(threads: number): Promise<BenchWorld> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const marcher = new Marcher({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  const look = { ...LOOK(), glow: null }
  return {
    reset: () => {},
    step: () => {
      const start = performance.now()
      marcher.loadCloud(puffs(), look)
      marcher.light(SCENE, EYE, 2)
      return performance.now() - start
    },
    dispose: () => {
      marcher.dispose()
      host.team.dispose()
    },
  }
}

/** As the native references: lit smoke of 128³ voxels. `light`: its grids, and the light of a sun and a lamp; `march`: a picture of it. */
export async function benchMarch(what: 'light' | 'march', threads: number): Promise<BenchWorld> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const marcher = new Marcher({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) })
  const part = column()
  const light = () => {
    marcher.load(part, LOOK())
    marcher.light(SCENE, EYE, 2)
  }
  light()
  return {
    reset: () => {},
    step: () => {
      const start = performance.now()
      if (what === 'light') light()
      else marcher.picture(VIEW)
      return performance.now() - start
    },
    dispose: () => {
      marcher.dispose()
      host.team.dispose()
    },
  }
}
