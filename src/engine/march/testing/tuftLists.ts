import { nodeKernels } from '../../../hosts/node/kernels'
import { Heap, LUMPS_SIDE, SCRATCH, TUFT_SLICES } from '../../memory'
import { type SeenTufts, TuftPainter } from '..'

export interface Tuft {
  head: readonly number[]
  radius: number
  thickness: number
  power: number
  meets: number
  torn: number
  texels: number
  lumps: readonly number[]
  turn: readonly (readonly number[])[]
  own: readonly number[]
  shine: number
  veil: readonly number[]
}
export const none = [0, 0, 0]
const upright = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
]
export const tuft = (o: Partial<Tuft>): Tuft => ({
  ...{ head: [0, 0, -5], radius: 1, thickness: 1.5, power: 1, meets: 0, torn: 0, texels: 8, lumps: none, turn: upright },
  ...{ own: [0.5, 0.25, 0.125], shine: 0, veil: none },
  ...o,
})
export const toHalf = (v: number): number => {
  const sign = v < 0 ? 0x8000 : 0
  const a = Math.abs(v)
  if (a < 2 ** -14) return sign | Math.round(a * 2 ** 24)
  const e = Math.floor(Math.log2(a))
  return sign | (((e + 15) << 10) + Math.round((a / 2 ** e - 1) * 1024))
}
export const fromHalf = (h: number) =>
  (h & 0x8000 ? -1 : 1) * ((h & 0x7fff) < 1024 ? (h & 1023) * 2 ** -24 : (1 + (h & 1023) / 1024) * 2 ** (((h >> 10) & 31) - 15))
/** Light in cells of 3 m around the eye, as it is in their middles. */
export function evenly(of: (place: readonly number[]) => readonly number[]): Omit<SeenTufts['lights'][number], 'end'> {
  const n = 9
  const place = (i: number) => [i % n, Math.floor(i / n) % n, Math.floor(i / n ** 2)].map((k) => 3 * (k - 4))
  const data = Uint16Array.from(Array.from({ length: n ** 3 }, (_, i) => [...of(place(i)), 0]).flat(), toHalf)
  const rows = [0, 1, 2].flatMap((a) => [0, 1, 2, 3].map((b) => (b === a ? 1 / 3 : b === 3 ? 4 : 0)))
  return { light: { size: [n, n, n], data }, rows }
}
/** As the graphics side leaves them. */
export function seen(all: readonly Tuft[], lights: SeenTufts['lights'] = [{ end: all.length, ...evenly(() => [1, 1, 1]) }]): SeenTufts {
  const slices = Array.from({ length: TUFT_SLICES }, () => new Uint32Array(all.length * 4))
  const places = new Float32Array(slices[0].buffer)
  all.forEach((t, i) => {
    places.set([...t.head, t.radius], i * 4)
    const halves = [t.thickness, t.power, t.meets, t.torn, t.texels, ...t.lumps, ...t.turn.flat(), ...t.own, ...t.veil, t.shine].map(toHalf)
    for (let w = 0; w < 12; w++) slices[1 + (w >> 2)][i * 4 + (w & 3)] = halves[w * 2] | (halves[w * 2 + 1] << 16)
  })
  const order = Uint32Array.from(all.map((_, i) => i).sort((a, b) => all[a].head[2] - all[b].head[2]))
  return { count: all.length, slices, order, lights }
}
/** Lumps that are waves, so that what lies between texels is known nearly. */
export const lumpBytes = Uint8Array.from({ length: LUMPS_SIDE ** 3 * 4 }, (_, k) => {
  const [c, t] = [k & 3, k >> 2]
  const [x, y, z] = [t % LUMPS_SIDE, Math.floor(t / LUMPS_SIDE) % LUMPS_SIDE, Math.floor(t / LUMPS_SIDE ** 2)].map(
    (v) => (2 * Math.PI * v) / LUMPS_SIDE,
  )
  return Math.round(128 + 100 * Math.sin(x * (1 + (c & 1)) + c) * Math.cos(y + c) * Math.sin(z * 2 - c))
})
export async function painted<T>(run: (p: TuftPainter) => T, threads = 1): Promise<T> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, 256 * 1024 * 1024)
  const p = new TuftPainter({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) }, lumpBytes)
  try {
    return run(p)
  } finally {
    p.dispose()
    host.team.dispose()
  }
}
