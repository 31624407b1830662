import { fractal } from '../math'
import { Arena, Block, FOG, FOG_LIGHT, FOG_LOOK, FOG_MOST_LIGHTS, FOG_PATCH_RAYS, JOB, type Machine, runJob, writeRecord } from '../memory'
import type { MarchScene, MarchView } from './look'

type Vec3 = readonly [number, number, number]
/** A thin gas over the whole shot by formula. Lengths in metres. */
export interface FogLook {
  /** 1/m: how much it takes of light on its way, at its densest. */
  extinction: number
  /** It is as dense up to this height, above which it halves every `halves`; null: it is the same everywhere. */
  level: number
  halves: number | null
  /** Share of what it takes that goes on in another direction, by colour. */
  albedo: Vec3
  /** How far ahead it scatters: the mean cosine, −1 to 1 (Henyey and Greenstein 1941). */
  forward: number
  /** Share of the light of the surroundings. */
  surroundings: number
  /** Patches: how much they take away and add, 0 to 1, their size, how far they have drifted, and how far they have renewed themselves. */
  patches: { amount: number; size: number; drift: Vec3; phase: number; seed: number } | null
}
/** What of the fog is in front of places: coarse pictures, nearer ones closer together. */
export interface FogFront {
  width: number
  height: number
  depths: number
  /** View depth of the last, m; the picture k of n lies at reach · (k / (n − 1))². */
  reach: number
  /** Half floats: light that comes from in front, and how much of what is behind is left; x first, from the lower left, nearest first. */
  data: Uint16Array
}
type FogView = Pick<MarchView, 'eye' | 'ahead' | 'right' | 'up'>
interface FogSize {
  width: number
  height: number
  depths: number
  reach: number
}
/** How much denser a fog is by its patches, on every few rays and in the middle of every piece before a depth; and how many rays a row has. */
function patchesOf(f: FogLook, view: FogView, { width, height, depths, reach }: FogSize): { row: number; values: Float32Array } | null {
  const { patches } = f
  if (!patches) return null
  const nx = Math.ceil(width / FOG_PATCH_RAYS) + 1
  const ny = Math.ceil(height / FOG_PATCH_RAYS) + 1
  const values = new Float32Array(nx * ny * depths)
  const { eye, ahead, right, up } = view
  const { size, drift, phase, seed, amount } = patches
  for (let j = 0, o = 0; j < ny; j++)
    for (let i = 0; i < nx; i++, o += depths) {
      const u = ((i * FOG_PATCH_RAYS + 0.5) / width) * 2 - 1
      const v = ((j * FOG_PATCH_RAYS + 0.5) / height) * 2 - 1
      for (let k = 1; k < depths; k++) {
        const d = (reach * ((k - 1) ** 2 + k * k)) / 2 / (depths - 1) ** 2
        const at = (a: number) => (eye[a] + (ahead[a] + right[a] * u + up[a] * v) * d - drift[a]) / size
        values[o + k] = Math.max(0, 1 + 1.6 * amount * fractal(seed, at(0), at(1), at(2), 2, phase))
      }
    }
  return { row: nx, values }
}
/** Makes fogs ready to be seen. Results are the same on any number of threads. */
export class FogMaker {
  private readonly arena: Arena
  private readonly machine: Machine
  private readonly record: number
  private readonly job: number
  private readonly blocks: Record<string, Block> = {}

  constructor(machine: Machine) {
    this.arena = new Arena(machine.heap)
    this.machine = { ...machine, heap: this.arena }
    this.record = this.arena.take(FOG.bytes)
    this.job = this.arena.take(JOB.bytes)
  }
  private room(name: string, bytes: number): number {
    this.blocks[name] ??= new Block(this.arena)
    return this.blocks[name].reserve(bytes)
  }
  private floats(name: string, data: Float32Array): number {
    const at = this.room(name, data.byteLength)
    this.arena.f32(at, data.length).set(data)
    return at
  }
  /**
   * Fogs before all places of a view up to a depth, of at most FOG_MOST_LIGHTS lights, the first ones. Along each ray in pieces: what a piece takes
   * is exact (the height by its integral, patches by their middle), and what it sends on is that of a light that is even within it (Hillaire 2015);
   * lights are dimmed by the fog before them. Scattered once. Throws MemoryRefused.
   */
  front(fogs: readonly FogLook[], scene: MarchScene, view: FogView, size: FogSize): FogFront {
    const { width, height, depths, reach } = size
    const lights = scene.lights.filter((l) => l.colour.some((v) => v > 0)).slice(0, FOG_MOST_LIGHTS)
    const looksAt = this.room('fogs', fogs.length * FOG_LOOK.bytes)
    const lightsAt = this.room('lights', Math.max(1, lights.length) * FOG_LIGHT.bytes)
    const count = width * height * depths * 4
    const out = this.room('out', count * 2)
    fogs.forEach((f, n) => {
      const patches = patchesOf(f, view, size)
      writeRecord(
        this.arena.view(),
        looksAt + n * FOG_LOOK.bytes,
        FOG_LOOK,
        { extinction: f.extinction, level: f.level, halves: f.halves ?? 0, albedo: f.albedo, forward: f.forward },
        {
          surroundings: f.surroundings,
          patches: patches ? this.floats(`patches${n}`, patches.values) : 0,
          patchRow: patches?.row ?? 0,
        },
      )
    })
    lights.forEach((l, n) => {
      writeRecord(
        this.arena.view(),
        lightsAt + n * FOG_LIGHT.bytes,
        FOG_LIGHT,
        { place: l.place, sun: l.sun ? 1 : 0, colour: l.colour },
        { aim: l.spot?.aim ?? [0, 0, 0], from: l.spot?.from ?? -2, to: l.spot?.to ?? -1 },
        l.shadow ? { map: this.floats(`map${n}`, l.shadow.data), mapSize: l.shadow.size, mapRows: l.shadow.rows } : { map: 0 },
      )
    })
    writeRecord(
      this.arena.view(),
      this.record,
      FOG,
      { eye: view.eye, ahead: view.ahead, right: view.right, up: view.up, width, height, depths, reach },
      {
        even: [0, 1, 2].map((a) => (scene.above[a] + scene.below[a]) / 2),
      },
      { fogs: looksAt, fogCount: fogs.length, lights: lightsAt, lightCount: lights.length, out },
    )
    runJob(this.machine, this.job, { kind: 'fog', record: this.record, count: height, chunk: 2, all: height > 4 })
    const data = new Uint16Array(this.arena.memory.buffer, out, count).slice()
    return { width, height, depths, reach, data }
  }
  dispose(): void {
    this.arena.dispose()
  }
}
