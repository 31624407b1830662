import { worldMatrix } from '../acts'
import { type MaskDoc, type Outline, type Shot, sampleNumber, sampleOutline } from '../shot'
import { poseOf, project } from './camera'

/** Pieces of the line between two corners of which one is round. */
const PIECES = 16

/** The closed line through corners: straight where both ends of a piece are sharp, else a cubic along the chords of the neighbours. */
export function lineOf(corners: Outline): [number, number][] {
  const n = corners.length
  const out: [number, number][] = []
  for (let i = 0; i < n; i++) {
    const [before, a, b, after] = [corners[(i + n - 1) % n], corners[i], corners[(i + 1) % n], corners[(i + 2) % n]]
    out.push([a[0], a[1]])
    if (a[2] === 0 && b[2] === 0) continue
    for (let k = 1; k < PIECES; k++) {
      const u = k / PIECES
      const v = 1 - u
      const at = (c: 0 | 1) => {
        const out = a[c] + ((b[c] - before[c]) / 6) * a[2]
        const into = b[c] - ((after[c] - a[c]) / 6) * b[2]
        return v * v * v * a[c] + 3 * v * v * u * out + 3 * v * u * u * into + u * u * u * b[c]
      }
      out.push([at(0), at(1)])
    }
  }
  return out
}
/** Where what a mask follows is at a moment in the picture, and how far along the camera's way, m; null behind the camera or without one. */
function followed(shot: Shot, mask: MaskDoc, t: number, aspect: number): { x: number; y: number; depth: number } | null {
  const o = shot.objects.find((x) => x.id === mask.follows)
  const camera = shot.cameras.find((c) => c.id === (mask.camera ?? shot.camera)) ?? shot.cameras[0]
  if (!o) return null
  const m = worldMatrix(o, t)
  return project(poseOf(shot, camera, t), aspect, [m[3], m[7], m[11]])
}
/** How what was drawn at `since` lies in the picture of another moment: moved, and grown as what it follows has come nearer. */
export function goesAlong(
  shot: Shot,
  mask: MaskDoc,
  t: number,
  aspect: number,
): { to: (x: number, y: number) => [number, number]; from: (x: number, y: number) => [number, number] } {
  const [then, now] = [followed(shot, mask, mask.since, aspect), followed(shot, mask, t, aspect)]
  if (!then || !now) return { to: (x, y) => [x, y], from: (x, y) => [x, y] }
  const grown = then.depth / now.depth
  return {
    to: (x, y) => [now.x + (x - then.x) * grown, now.y + (y - then.y) * grown],
    from: (x, y) => [then.x + (x - now.x) / grown, then.y + (y - now.y) / grown],
  }
}
/** The corners of a mask in the picture of a moment. */
export function cornersAt(shot: Shot, mask: MaskDoc, t: number, aspect: number): Outline {
  const { to } = goesAlong(shot, mask, t, aspect)
  return sampleOutline(mask.outline, t).map(([x, y, round]) => [...to(x, y), round])
}
/** How far a mask lies in the picture of a moment, m; null where what gives its depth is behind the camera. */
export function depthAt(shot: Shot, mask: MaskDoc, t: number, aspect: number): number | null {
  return mask.depth === null ? (followed(shot, mask, t, aspect)?.depth ?? null) : sampleNumber(mask.depth, t)
}

/** A rectangle of pixels, first row lowest, and how much of each is covered, 0 to 1. */
export interface Coverage {
  left: number
  low: number
  width: number
  height: number
  data: Float32Array
}
/**
 * What a closed line covers of a picture, sampled at the middles of pixels. The signed distance from the line goes from out to in over `feather`
 * pixels, at least one, in the shape of 3u² − 2u³. Inside is by the even-odd rule. Null: nothing.
 */
export function coverage(line: readonly (readonly [number, number])[], width: number, height: number, feather: number): Coverage | null {
  const soft = Math.max(1, feather)
  const points = line.map(([x, y]) => [((x + 1) / 2) * width, ((y + 1) / 2) * height] as const)
  const low = (c: 0 | 1, most: number) => Math.min(most, Math.max(0, Math.floor(Math.min(...points.map((p) => p[c])) - soft / 2)))
  const high = (c: 0 | 1, most: number) => Math.min(most, Math.max(0, Math.ceil(Math.max(...points.map((p) => p[c])) + soft / 2)))
  const [x0, y0, x1, y1] = [low(0, width), low(1, height), high(0, width), high(1, height)]
  if (x1 <= x0 || y1 <= y0) return null
  const w = x1 - x0
  const h = y1 - y0
  /** Squares of the distance from the line, where it is near. */
  const near = new Float32Array(w * h).fill(Infinity)
  const data = new Float32Array(w * h)
  points.forEach(([ax, ay], i) => {
    const [bx, by] = points[(i + 1) % points.length]
    const [ex, ey] = [bx - ax, by - ay]
    const long = ex * ex + ey * ey || 1
    const from = Math.max(0, Math.floor(Math.min(ax, bx) - soft / 2 - x0))
    const to = Math.min(w, Math.ceil(Math.max(ax, bx) + soft / 2 - x0))
    const last = Math.min(h, Math.ceil(Math.max(ay, by) + soft / 2 - y0))
    for (let y = Math.max(0, Math.floor(Math.min(ay, by) - soft / 2 - y0)); y < last; y++)
      for (let x = from; x < to; x++) {
        const [px, py] = [x0 + x + 0.5 - ax, y0 + y + 0.5 - ay]
        const u = Math.min(1, Math.max(0, (px * ex + py * ey) / long))
        const d = (px - u * ex) ** 2 + (py - u * ey) ** 2
        if (d < near[y * w + x]) near[y * w + x] = d
      }
  })
  const crossings: number[] = []
  for (let y = 0; y < h; y++) {
    const at = y0 + y + 0.5
    crossings.length = 0
    points.forEach(([ax, ay], i) => {
      const [bx, by] = points[(i + 1) % points.length]
      if (ay <= at !== by <= at) crossings.push(ax + ((at - ay) / (by - ay)) * (bx - ax))
    })
    crossings.sort((a, b) => a - b)
    let k = 0
    for (let x = 0; x < w; x++) {
      while (k < crossings.length && crossings[k] < x0 + x + 0.5) k++
      const d = Math.sqrt(near[y * w + x])
      const u = Math.min(1, Math.max(0, 0.5 + (k % 2 ? d : -d) / soft))
      data[y * w + x] = u * u * (3 - 2 * u)
    }
  }
  return { left: x0, low: y0, width: w, height: h, data }
}
