import type { StoredGrid, StoredVolume } from '../geometry'

const SIDE = 4
/** Metres between the samples of the cloud. */
export const CELL = 0.05
/** A cloud about its file's own zero, as dense as this. */
export const dense = (x: number, y: number, z: number) => Math.max(0, 1 - Math.hypot(x, y * 1.3, z) / 0.6)
/** A grid of 32³ samples about zero. */
function grid(channels: 1 | 3, value: (x: number, y: number, z: number) => readonly number[]): StoredGrid {
  const origins: number[] = []
  const values: number[] = []
  for (let n = 0; n < SIDE ** 3; n++) {
    const o = [n % SIDE, Math.floor(n / SIDE) % SIDE, Math.floor(n / SIDE / SIDE)].map((v) => v * 8 - 16)
    origins.push(...o)
    for (let i = 0; i < 512; i++) {
      const at = [o[0] + (i >> 6), o[1] + ((i >> 3) & 7), o[2] + (i & 7)].map((v) => v * CELL)
      values.push(...value(at[0], at[1], at[2]))
    }
  }
  const matrix = [
    [CELL, 0, 0],
    [0, CELL, 0],
    [0, 0, CELL],
    [0, 0, 0],
  ]
  return { channels, matrix, count: SIDE ** 3, origins: Int32Array.from(origins), values: Float32Array.from(values) }
}
const grids: Record<string, StoredGrid> = {
  density: grid(1, (x, y, z) => [dense(x, y, z)]),
  temperature: grid(1, (x, y, z) => [293 + 500 * dense(x, y, z)]),
  // It rotates about Z, and rises.
  vel: grid(3, (x, y) => [-2 * y, 2 * x, 0.5]),
}
/** A file with that cloud, its heat in kelvin, and how it moves, m/s. */
export const stored: StoredVolume = {
  grids: [
    { name: 'density', channels: 1, kind: 'fog volume' },
    { name: 'temperature', channels: 1, kind: 'unknown' },
    { name: 'vel', channels: 3, kind: 'unknown' },
  ],
  read: (name) => grids[name] ?? null,
}
