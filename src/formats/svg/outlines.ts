import { XMLParser } from 'fast-xml-parser'
import { SVGPathData } from 'svg-pathdata'
import { type Contour, cosDeg, enclosing, extrude, type Mesh, type MeshPart, signedArea, sinDeg } from '../../engine'
import { grouped } from '../../shot'
import { bad, LIMITS, type Read } from '../result'

/** One filled shape of a drawing: closed outlines in its own units, Y down, as straight pieces. */
export interface Outline {
  name: string
  contours: Contour[]
}
/** How a drawing becomes a body. Lengths in metres. */
export interface OutlineShape {
  /** Height of the whole drawing. */
  size: number
  depth: number
  bevel: number
  rings: number
  /** Straight pieces of a curve. */
  detail: number
}
/** a b c d e f, as SVG writes them. */
type Matrix = [number, number, number, number, number, number]
const NONE: Matrix = [1, 0, 0, 1, 0, 0]
const times = (p: Matrix, q: Matrix): Matrix => [
  p[0] * q[0] + p[2] * q[1],
  p[1] * q[0] + p[3] * q[1],
  p[0] * q[2] + p[2] * q[3],
  p[1] * q[2] + p[3] * q[3],
  p[0] * q[4] + p[2] * q[5] + p[4],
  p[1] * q[4] + p[3] * q[5] + p[5],
]

const tan = (deg: number): number => sinDeg(deg) / (cosDeg(deg) || 1e-9)
/** Longer transforms than any tool writes. */
const MAX_TRANSFORM = 20000
const MAX_OPERATION_NAME = 12
/** The operations of a transform, in order, with their numbers. Piece by piece, in time that grows with its length. */
function* operationsOf(text: string): Generator<[string, number[]]> {
  for (const piece of text.split(')').slice(0, -1)) {
    const open = piece.indexOf('(')
    if (open < 0) continue
    const numbers = piece
      .slice(open + 1)
      .split(/[\s,]+/)
      .filter(Boolean)
      .map(Number)
    const name = piece.slice(0, open).trimEnd().slice(-MAX_OPERATION_NAME).replace(/^.*\W/s, '')
    if (numbers.every(Number.isFinite)) yield [name, numbers]
  }
}
function transformOf(text: string | undefined): Matrix {
  let out = NONE
  for (const m of operationsOf((text ?? '').slice(0, MAX_TRANSFORM))) {
    const n = m[1]
    if (m[0] === 'matrix' && n.length === 6) out = times(out, n as Matrix)
    else if (m[0] === 'translate') out = times(out, [1, 0, 0, 1, n[0] ?? 0, n[1] ?? 0])
    else if (m[0] === 'scale') out = times(out, [n[0] ?? 1, 0, 0, n[1] ?? n[0] ?? 1, 0, 0])
    else if (m[0] === 'rotate') {
      const [c, s] = [cosDeg(n[0] ?? 0), sinDeg(n[0] ?? 0)]
      const [x, y] = [n[1] ?? 0, n[2] ?? 0]
      out = times(times(times(out, [1, 0, 0, 1, x, y]), [c, s, -s, c, 0, 0]), [1, 0, 0, 1, -x, -y])
    } else if (m[0] === 'skewX') out = times(out, [1, 0, tan(n[0] ?? 0), 1, 0, 0])
    else if (m[0] === 'skewY') out = times(out, [1, tan(n[0] ?? 0), 0, 1, 0, 0])
  }
  return out
}
type Attributes = Record<string, string>
const number = (a: Attributes, name: string, or = 0): number => {
  const v = Number.parseFloat(a[name] ?? '')
  return Number.isFinite(v) ? v : or
}
/** Every basic shape as a path; null for what is none, or has no size. */
function pathOf(tag: string, a: Attributes): string | null {
  switch (tag) {
    case 'path':
      return a.d ?? null
    case 'rect': {
      const [x, y, w, h] = [number(a, 'x'), number(a, 'y'), number(a, 'width'), number(a, 'height')]
      if (!(w > 0 && h > 0)) return null
      const rx = Math.min(w / 2, number(a, 'rx', number(a, 'ry'))),
        ry = Math.min(h / 2, number(a, 'ry', number(a, 'rx')))
      if (!(rx > 0 && ry > 0)) return `M${x} ${y}h${w}v${h}h${-w}Z`
      const arc = (dx: number, dy: number) => `a${rx} ${ry} 0 0 1 ${dx} ${dy}`
      return `M${x + rx} ${y}h${w - 2 * rx}${arc(rx, ry)}v${h - 2 * ry}${arc(-rx, ry)}h${-(w - 2 * rx)}${arc(-rx, -ry)}v${-(h - 2 * ry)}${arc(rx, -ry)}Z`
    }
    case 'circle':
    case 'ellipse': {
      const rx = tag === 'circle' ? number(a, 'r') : number(a, 'rx'),
        ry = tag === 'circle' ? rx : number(a, 'ry')
      if (!(rx > 0 && ry > 0)) return null
      const [x, y] = [number(a, 'cx'), number(a, 'cy')]
      return `M${x - rx} ${y}a${rx} ${ry} 0 1 0 ${2 * rx} 0a${rx} ${ry} 0 1 0 ${-2 * rx} 0Z`
    }
    case 'polygon':
    case 'polyline':
      return a.points ? `M${a.points}Z` : null
    default:
      return null
  }
}
/** Curves cut into `n` straight pieces each; an open outline is closed, as a fill closes it. */
function contoursOf(d: string, m: Matrix, n: number): Contour[] {
  const data = new SVGPathData(d).toAbs().normalizeHVZ(false).normalizeST().aToC()
  const out: Contour[] = []
  let now: Contour = []
  let [x0, y0] = [0, 0]
  // Rounded to a millionth of a unit: arcs go through functions of which the last bits may differ between machines.
  const round = (v: number) => Math.round(v * 1e6) / 1e6
  const put = (x: number, y: number) => now.push(round(m[0] * x + m[2] * y + m[4]), round(m[1] * x + m[3] * y + m[5]))
  for (const c of data.commands) {
    if (c.type === SVGPathData.MOVE_TO) {
      out.push((now = []))
      put(c.x, c.y)
    } else if (c.type === SVGPathData.LINE_TO) put(c.x, c.y)
    else if (c.type === SVGPathData.CURVE_TO || c.type === SVGPathData.QUAD_TO) {
      for (let i = 1; i <= n; i++) {
        const t = i / n,
          s = 1 - t
        if (c.type === SVGPathData.QUAD_TO) put(s * s * x0 + 2 * s * t * c.x1 + t * t * c.x, s * s * y0 + 2 * s * t * c.y1 + t * t * c.y)
        else
          put(
            s * s * s * x0 + 3 * s * s * t * c.x1 + 3 * s * t * t * c.x2 + t * t * t * c.x,
            s * s * s * y0 + 3 * s * s * t * c.y1 + 3 * s * t * t * c.y2 + t * t * t * c.y,
          )
      }
    }
    if ('x' in c && 'y' in c) [x0, y0] = [c.x, c.y]
  }
  return out.filter((c) => c.length >= 6 && c.every(Number.isFinite))
}
/** By the rule that SVG fills with by default: an outline that runs the same way inside another one is no hole. */
function nonzero(list: Contour[]): Contour[] {
  const around = enclosing(list)
  return list.filter((c, i) => {
    let outside = 0
    for (const k of around[i]) outside += Math.sign(signedArea(list[k]))
    return (outside !== 0) !== (outside + Math.sign(signedArea(c)) !== 0)
  })
}
const SKIPPED: Record<string, string> = {
  script: 'scripts',
  text: 'text (turn it into outlines first)',
  image: 'pictures',
  use: 'repeated symbols',
  foreignObject: 'foreign objects',
  mask: 'masks',
  clipPath: 'clips',
  filter: 'filters',
  linearGradient: 'gradients',
  radialGradient: 'gradients',
  pattern: 'patterns',
  line: 'lines without an area',
  style: 'style sheets',
  animate: 'animations',
  animateTransform: 'animations',
}
const QUIET = new Set(['defs', 'symbol', 'marker', 'title', 'desc', 'metadata'])

/**
 * The filled shapes of an SVG drawing. Only shapes are read: scripts never run, nothing outside of the file is ever loaded, entities stay
 * as they stand. What is not taken over is named.
 */
export function readOutlines(bytes: Uint8Array, detail: number): Read<Outline[]> {
  let tree: Record<string, unknown>[]
  try {
    tree = new XMLParser({
      preserveOrder: true,
      ignoreAttributes: false,
      attributeNamePrefix: '',
      processEntities: false,
      parseAttributeValue: false,
    }).parse(new TextDecoder().decode(bytes))
  } catch (error) {
    return bad(`the drawing’s XML cannot be read: ${error instanceof Error ? error.message.split('\n')[0] : error}`)
  }
  const root = tree.find((n) => 'svg' in n)
  if (!root) return bad('it has no <svg> at its top')
  const out: Outline[] = []
  const left = new Set<string>()
  let points = 0
  const n = Math.max(1, Math.min(64, Math.round(detail)))
  let problem: string | null = null
  const walk = (nodes: Record<string, unknown>[], m: Matrix, hidden: boolean, evenodd: boolean, depth: number): void => {
    if (depth > 200) {
      problem = 'its groups lie more than 200 deep in one another'
      return
    }
    for (const node of nodes) {
      const tag = Object.keys(node).find((k) => k !== ':@' && k !== '#text')
      if (!tag || problem) continue
      const name = tag.replace(/^.*:/, '')
      const a = (node[':@'] ?? {}) as Attributes
      const style = Object.fromEntries(
        (a.style ?? '')
          .split(';')
          .flatMap((s) => (s.includes(':') ? [[s.slice(0, s.indexOf(':')).trim(), s.slice(s.indexOf(':') + 1).trim()]] : [])),
      )
      const get = (key: string) => style[key] ?? a[key]
      if (SKIPPED[name]) left.add(SKIPPED[name])
      if (SKIPPED[name] || QUIET.has(name) || get('display') === 'none') continue
      const own = times(m, transformOf(a.transform))
      const fill = get('fill')
      const empty = fill === undefined ? hidden : fill === 'none' || fill === 'transparent'
      const rule = get('fill-rule') === undefined ? evenodd : get('fill-rule') === 'evenodd'
      const d = pathOf(name, a)
      if (d !== null && empty) left.add('shapes without a fill')
      if (d !== null && !empty) {
        let contours: Contour[]
        try {
          contours = contoursOf(d, own, n)
        } catch {
          problem = `the path ${a.id ? `“${a.id.slice(0, 40)}”` : `number ${out.length + 1}`} cannot be read: “${d.slice(0, 40)}…”`
          return
        }
        points += contours.reduce((s, c) => s + c.length / 2, 0)
        if (points > LIMITS.vertices / 8) {
          problem = `more than ${grouped(LIMITS.vertices / 8)} points`
          return
        }
        const kept = rule ? contours : nonzero(contours)
        if (kept.length) out.push({ name: a.id || `${name} ${out.length + 1}`, contours: kept })
      }
      if (Array.isArray(node[tag])) walk(node[tag] as Record<string, unknown>[], own, empty, rule, depth + 1)
    }
  }
  walk(root.svg as Record<string, unknown>[], NONE, false, false, 0)
  if (problem) return bad(problem)
  if (!out.length) return bad('it has no filled shapes; lines alone have no area')
  return { ok: true, value: out, notes: left.size ? [`not taken over: ${[...left].join(', ')}`] : [] }
}
/**
 * A drawing as a body with depth: its height is the size, its lowest point at y = 0, its middle at x = 0, facing +Z. A part for each shape.
 */
export function outlineMesh(outlines: readonly Outline[], s: OutlineShape): Mesh {
  const all = outlines.flatMap((o) => o.contours)
  const xs = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY],
    ys = [Number.POSITIVE_INFINITY, Number.NEGATIVE_INFINITY]
  for (const c of all) {
    for (let i = 0; i < c.length; i += 2) {
      xs[0] = Math.min(xs[0], c[i])
      xs[1] = Math.max(xs[1], c[i])
      ys[0] = Math.min(ys[0], c[i + 1])
      ys[1] = Math.max(ys[1], c[i + 1])
    }
  }
  const k = s.size / Math.max(1e-12, ys[1] - ys[0])
  const positions: number[] = [],
    normals: number[] = [],
    indices: number[] = []
  const parts: MeshPart[] = []
  for (const o of outlines) {
    const m = extrude(
      o.contours.map((c) => c.map((v, i) => (i % 2 ? (ys[1] - v) * k : (v - (xs[0] + xs[1]) / 2) * k))),
      { depth: s.depth, bevel: s.bevel, steps: s.rings },
    )
    if (!m.indices.length) continue
    const first = positions.length / 3
    parts.push({ name: o.name, firstTriangle: indices.length / 3, triangleCount: m.indices.length / 3 })
    for (const v of m.positions) positions.push(v)
    for (const v of m.normals ?? []) normals.push(v)
    for (const i of m.indices) indices.push(first + i)
  }
  return { positions: new Float32Array(positions), normals: new Float32Array(normals), indices: new Uint32Array(indices), parts }
}
export const looksLikeSvg = (bytes: Uint8Array): boolean => {
  const start = new TextDecoder().decode(bytes.subarray(0, 4096))
  return (
    /^\uFEFF?\s*(<\?xml|<!--|<!DOCTYPE svg|<svg|<\w+:svg)/i.test(start) &&
    /<(\w+:)?svg[\s>]/i.test(new TextDecoder().decode(bytes.subarray(0, 65536)))
  )
}
export const looksLikeFont = (bytes: Uint8Array): boolean => {
  if (bytes.byteLength < 12) return false
  const tag = String.fromCharCode(...bytes.subarray(0, 4))
  return tag === 'wOFF' || tag === 'OTTO' || tag === 'true' || (bytes[0] === 0 && bytes[1] === 1 && bytes[2] === 0 && bytes[3] === 0)
}
