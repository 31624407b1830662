import * as THREE from 'three'
import { halfTable, type MarchFront, type MarchLeft } from '../engine'

/** As little is left behind something that it does not matter what comes further on. */
const LEFT = 1e-4
/** One, as a half. */
const ONE = 0x3c00
/** What lies in front of a slice, of all of a front's pixels: in front of the first nothing, behind the last all of it. */
function sampler(f: MarchFront): (pixel: number, depth: number, out: Float64Array) => void {
  const of = halfTable()
  const pixels = f.width * f.height
  return (pixel, depth, out) => {
    const s = Math.min(f.depths - 1, (depth - f.from) / f.step)
    if (!(s > 0)) {
      out[0] = out[1] = out[2] = 0
      out[3] = 1
      return
    }
    const low = Math.floor(s)
    const share = s - low
    const a = (low * pixels + pixel) * 4
    const b = (Math.min(f.depths - 1, low + 1) * pixels + pixel) * 4
    for (let c = 0; c < 4; c++) out[c] = of[f.data[a + c]] * (1 - share) + of[f.data[b + c]] * share
  }
}
/** Depths that hold those of both, as close as the closer ones. */
function depthsOfBoth(a: Omit<MarchFront, 'data'>, b: Omit<MarchFront, 'data'>): Omit<MarchFront, 'data'> {
  const { width, height } = a
  if (width !== b.width || height !== b.height) throw new Error('fronts of two views do not go together')
  const from = Math.min(a.from, b.from)
  const to = Math.max(a.from + a.step * (a.depths - 1), b.from + b.step * (b.depths - 1))
  const depths = Math.max(2, Math.min(96, Math.ceil((to - from) / Math.min(a.step, b.step)) + 1))
  return { width, height, depths, from, step: (to - from) / (depths - 1) }
}
/** What two gases leave of the light, one within or behind the other: the one of what the other does. */
export function joinLefts(a: MarchLeft, b: MarchLeft): MarchLeft {
  const both = depthsOfBoth(a, b)
  const pixels = both.width * both.height
  const left = new Uint16Array(pixels * both.depths)
  const of = halfTable()
  const half = THREE.DataUtils.toHalfFloat
  const slice = (f: MarchLeft, depth: number) => {
    const s = Math.min(f.depths - 1, (depth - f.from) / f.step)
    if (!(s > 0)) return null
    const low = Math.floor(s)
    return { at: low * pixels, next: Math.min(f.depths - 1, low + 1) * pixels, share: s - low, left: f.left }
  }
  for (let k = 0; k < both.depths; k++) {
    const there = [a, b].flatMap((f) => slice(f, both.from + k * both.step) ?? [])
    for (let p = 0, o = k * pixels; p < pixels; p++, o++) {
      let all = 1
      for (const f of there) all *= of[f.left[f.at + p]] * (1 - f.share) + of[f.left[f.next + p]] * f.share
      left[o] = all === 1 ? ONE : half(all)
    }
  }
  return { ...both, left }
}
/**
 * Two gases in one: what of both lies in front of places, in the same view. From slice to slice each adds its light and dims, so that gases
 * that lie within each other come out right; the depths are as close as those of both.
 */
export function joinFronts(a: MarchFront, b: MarchFront): MarchFront {
  const both = depthsOfBoth(a, b)
  const { from, depths, step } = both
  const pixels = a.width * a.height
  const data = new Uint16Array(pixels * depths * 4)
  const half = THREE.DataUtils.toHalfFloat
  const fronts = [a, b].map((f) => ({ at: sampler(f), now: new Float64Array(4), before: new Float64Array(4) }))
  for (let p = 0; p < pixels; p++) {
    const sum = [0, 0, 0]
    let left = 1
    for (const f of fronts) f.before.set([0, 0, 0, 1])
    for (let k = 0; k < depths; k++) {
      const came = [0, 0, 0]
      let dims = 1
      for (const f of fronts) {
        f.at(p, from + k * step, f.now)
        // What it adds between the slices, as if nothing were before it.
        const open = Math.max(LEFT, f.before[3])
        for (let c = 0; c < 3; c++) came[c] += Math.max(0, f.now[c] - f.before[c]) / open
        dims *= Math.min(1, f.now[3] / open)
        f.before.set(f.now)
      }
      for (let c = 0; c < 3; c++) sum[c] += left * came[c]
      left *= dims
      const o = (k * pixels + p) * 4
      for (let c = 0; c < 3; c++) data[o + c] = half(Math.min(65000, sum[c]))
      data[o + 3] = half(left)
    }
  }
  return { ...both, data }
}
