import * as THREE from 'three'
import { halfTable, type MarchFront } from '../engine'

/** As little is left behind something that it does not matter what comes further on. */
const LEFT = 1e-4
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
/**
 * Two gases in one: what of both lies in front of places, in the same view. From slice to slice each adds its light and dims, so that gases
 * that lie within each other come out right; the depths are as close as those of both.
 */
export function joinFronts(a: MarchFront, b: MarchFront): MarchFront {
  if (a.width !== b.width || a.height !== b.height) throw new Error('fronts of two views do not go together')
  const from = Math.min(a.from, b.from)
  const to = Math.max(a.from + a.step * (a.depths - 1), b.from + b.step * (b.depths - 1))
  const depths = Math.max(2, Math.min(96, Math.ceil((to - from) / Math.min(a.step, b.step)) + 1))
  const step = (to - from) / (depths - 1)
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
  return { width: a.width, height: a.height, depths, from, step, data }
}
