// Makes the small meshes of the demo world. Run with: node demo/props.mjs. It prints each file's hash, by which shots name it;
// the shots themselves (demo/<name>/shot.json) are made in the application.
import { createHash } from 'node:crypto'
import { mkdirSync, writeFileSync } from 'node:fs'
import * as THREE from 'three'

/** A mesh under construction: named groups of quads and triangles with a normal for each corner. */
class Prop {
  v = []
  n = []
  out = []
  group(name) {
    this.out.push(`g ${name}`)
  }
  /** Whether corners of one place and normal are one vertex; older files say each on its own. */
  shared = null
  corner(p, n) {
    const l = Math.hypot(...n) || 1
    if (this.shared) {
      const key = [...p, ...n.map((x) => x / l)].map((x) => Math.round(x * 1e5)).join()
      if (!this.shared.has(key)) {
        this.v.push(p)
        this.n.push(n.map((x) => x / l))
        this.shared.set(key, this.v.length)
      }
      return this.shared.get(key)
    }
    this.v.push(p)
    this.n.push(n.map((x) => x / l))
    return this.v.length
  }
  face(points, normals) {
    const ids = points.map((p, i) => this.corner(p, normals[i]))
    this.out.push(`f ${ids.map((i) => `${i}//${i}`).join(' ')}`)
  }
  flat(points) {
    const [a, b, c] = points
    const e = b.map((x, i) => x - a[i]),
      f = c.map((x, i) => x - a[i])
    const n = [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]]
    this.face(
      points,
      points.map(() => n),
    )
  }
  /**
   * A skin over rings of equal length, each a closed loop counter-clockwise from above, from low to high. Smooth across, or creased between
   * rings.
   */
  loft(rings, smoothUp) {
    const m = rings[0].length
    const normal = (r, k) => {
      const a = rings[r][(k + m - 1) % m],
        b = rings[r][(k + 1) % m]
      const lo = rings[Math.max(0, r - 1)][k],
        hi = rings[Math.min(rings.length - 1, r + 1)][k]
      const e = b.map((x, i) => x - a[i]),
        f = hi.map((x, i) => x - lo[i])
      return [e[1] * f[2] - e[2] * f[1], e[2] * f[0] - e[0] * f[2], e[0] * f[1] - e[1] * f[0]]
    }
    for (let r = 0; r + 1 < rings.length; r++) {
      for (let k = 0; k < m; k++) {
        const q = (k + 1) % m
        const points = [rings[r][k], rings[r][q], rings[r + 1][q], rings[r + 1][k]]
        if (smoothUp) this.face(points, [normal(r, k), normal(r, q), normal(r + 1, q), normal(r + 1, k)])
        else this.flat(points)
      }
    }
  }
  cap(ring, up) {
    const c = ring.reduce((s, p) => s.map((x, i) => x + p[i] / ring.length), [0, 0, 0])
    const n = [0, up ? 1 : -1, 0]
    ring.forEach((p, k) => {
      const q = ring[(k + 1) % ring.length]
      this.face(up ? [c, p, q] : [c, q, p], [n, n, n])
    })
  }
  text() {
    const num = (x) => String(Math.round(x * 1e5) / 1e5)
    return (
      [...this.v.map((p) => `v ${p.map(num).join(' ')}`), ...this.n.map((p) => `vn ${p.map(num).join(' ')}`), ...this.out].join('\n') + '\n'
    )
  }
}
/** A rectangle with round corners in the plane y, counter-clockwise from above. */
function block(y, x0, x1, half, radius, steps = 5) {
  const out = []
  const r = Math.min(radius, half * 0.98, (x1 - x0) * 0.49)
  const corners = [
    [x1 - r, -half + r, 0.75],
    [x0 + r, -half + r, 0.5],
    [x0 + r, half - r, 0.25],
    [x1 - r, half - r, 0],
  ]
  for (const [cx, cz, turn] of corners) {
    for (let k = 0; k <= steps; k++) {
      const a = (turn + (1 - k / steps) * 0.25) * Math.PI * 2
      out.push([cx + r * Math.cos(a), y, cz + r * Math.sin(a)])
    }
  }
  return out
}
const mix = (a, b, t) => a + (b - a) * t

function anvil() {
  const p = new Prop()
  // y, x from, x to, half depth, corner radius
  const levels = [
    [0, -0.26, 0.24, 0.155, 0.03],
    [0.045, -0.26, 0.24, 0.155, 0.03],
    [0.06, -0.252, 0.232, 0.147, 0.03],
    [0.085, -0.17, 0.155, 0.1, 0.04],
    [0.115, -0.128, 0.118, 0.078, 0.045],
    [0.15, -0.12, 0.11, 0.073, 0.045],
    [0.185, -0.135, 0.13, 0.08, 0.04],
    [0.212, -0.18, 0.22, 0.094, 0.025],
    [0.228, -0.235, 0.33, 0.104, 0.014],
    [0.242, -0.25, 0.352, 0.108, 0.01],
    [0.352, -0.25, 0.36, 0.108, 0.01],
    [0.36, -0.243, 0.353, 0.101, 0.008],
  ]
  const rings = levels.map((l) => block(...l))
  p.group('Body')
  p.loft(rings.slice(0, 3), false)
  p.loft(rings.slice(2, 10), true)
  p.loft(rings.slice(9, 12), false)
  p.cap(rings[0], false)
  p.group('Top face')
  p.cap(rings[11], true)
  p.group('Horn')
  const horn = []
  const steps = 14
  for (let i = 0; i <= steps; i++) {
    const t = i / steps
    const r = 0.094 * (1 - t) ** 0.62 + 0.004
    const x = mix(-0.235, -0.56, t)
    const y = mix(0.262, 0.336, t ** 1.2)
    const ring = []
    for (let k = 0; k < 24; k++) {
      const a = (k / 24) * Math.PI * 2
      const flat = Math.min(Math.sin(a) * r * 0.95, 0.352 - y)
      ring.push([x, y + flat, Math.cos(a) * r])
    }
    horn.push(ring)
  }
  p.loft(horn, true)
  const tip = [-0.566, 0.336, 0]
  const last = horn[steps]
  last.forEach((q, k) => p.flat([q, last[(k + 1) % last.length], tip]))
  p.cap(horn[0], false)
  return p.text()
}
function stump() {
  const p = new Prop()
  const wobble = (a, y) => 1 + 0.03 * Math.sin(a * 5 + 1.3) + 0.02 * Math.sin(a * 11 + y * 9) + 0.012 * Math.sin(a * 23 + 2)
  const ring = (y, r) =>
    Array.from({ length: 72 }, (_, k) => {
      const a = -(k / 72) * Math.PI * 2
      const s = r * wobble(a, y)
      return [Math.cos(a) * s, y, Math.sin(a) * s]
    })
  const rings = [ring(0, 0.31), ring(0.06, 0.292), ring(0.25, 0.282), ring(0.48, 0.286), ring(0.52, 0.286), ring(0.535, 0.274)]
  p.group('Bark')
  p.loft(rings, true)
  p.cap(rings[0], false)
  p.group('Cut')
  p.cap(rings[5], true)
  return p.text()
}
/** A wall of rough blocks with an arched mouth: the kiln behind the anvil. */
function kiln() {
  const p = new Prop()
  const rand = (a, b) => {
    const s = Math.sin(a * 127.1 + b * 311.7) * 43758.5453
    return s - Math.floor(s)
  }
  const box = (x0, x1, y0, y1, z0, z1) => {
    const b = 0.012
    const ring = (y, i) => [
      [x1 - i, y, z1 - i],
      [x1 - i, y, z0 + i],
      [x0 + i, y, z0 + i],
      [x0 + i, y, z1 - i],
    ]
    const rings = [ring(y0, b), ring(y0 + b, 0), ring(y1 - b, 0), ring(y1, b)]
    p.loft(rings, false)
    p.flat(rings[3])
    p.flat(rings[0].toReversed())
  }
  p.group('Blocks')
  const h = 0.17
  for (let row = 0; row < 13; row++) {
    const y0 = row * h
    let x = -1.75 - (row % 2) * 0.13
    for (let i = 0; x < 1.75; i++) {
      const w = 0.24 + rand(row, i) * 0.14
      const cx = x + w / 2
      const arch = cx * cx + Math.max(0, y0 + h / 2 - 0.42) ** 2 < 0.47 ** 2
      const outer = (cx / 1.72) ** 2 + (Math.max(0, y0 - 0.9) / 1.35) ** 2 < 1
      if (!arch && outer) {
        const d = rand(i, row) * 0.05
        box(x, x + w - 0.014, y0, y0 + h - 0.012, -0.34, d)
      }
      x += w
    }
  }
  return p.text()
}
/** A leaping fox in outline, cut from a plate, on the bar of a weathervane; it points along +X and turns about Y. */
function vane() {
  const outline = [
    [-1, 0.3],
    [-0.9, 0.41],
    [-0.72, 0.45],
    [-0.56, 0.37],
    [-0.42, 0.28],
    [-0.3, 0.31],
    [-0.05, 0.28],
    [0.2, 0.31],
    [0.33, 0.4],
    [0.39, 0.5],
    [0.41, 0.68],
    [0.5, 0.55],
    [0.555, 0.545],
    [0.6, 0.66],
    [0.645, 0.49],
    [0.73, 0.4],
    [0.93, 0.31],
    [0.91, 0.265],
    [0.71, 0.255],
    [0.55, 0.21],
    [0.47, 0.1],
    [0.7, -0.03],
    [0.93, -0.09],
    [0.92, -0.145],
    [0.66, -0.11],
    [0.4, -0.03],
    [0.28, 0.03],
    [0.02, 0.05],
    [-0.22, 0.07],
    [-0.34, 0.01],
    [-0.56, -0.1],
    [-0.82, -0.22],
    [-0.85, -0.165],
    [-0.63, -0.02],
    [-0.5, 0.12],
    [-0.46, 0.185],
    [-0.6, 0.255],
    [-0.75, 0.3],
    [-0.88, 0.28],
  ].map(([x, y]) => [x * 0.62, y * 0.62 + 0.16])
  const p = new Prop()
  const z = 0.012
  p.group('Fox')
  const faces = THREE.ShapeUtils.triangulateShape(
    outline.map(([x, y]) => new THREE.Vector2(x, y)),
    [],
  )
  const area = outline.reduce(
    (sum, [x, y], i) => sum + x * outline[(i + 1) % outline.length][1] - outline[(i + 1) % outline.length][0] * y,
    0,
  )
  const way = area > 0 ? outline : outline.toReversed()
  for (const f of faces) {
    const t = f.map((i) => outline[i])
    const left = (t[1][0] - t[0][0]) * (t[2][1] - t[0][1]) - (t[2][0] - t[0][0]) * (t[1][1] - t[0][1]) > 0
    const q = left ? t : t.toReversed()
    p.flat(q.map(([x, y]) => [x, y, z]))
    p.flat(q.toReversed().map(([x, y]) => [x, y, -z]))
  }
  way.forEach(([x, y], i) => {
    const [u, v] = way[(i + 1) % way.length]
    p.flat([
      [x, y, -z],
      [u, v, -z],
      [u, v, z],
      [x, y, z],
    ])
  })
  const bar = (name, x0, x1, y0, y1, w) => {
    p.group(name)
    const c = (x, y, zz) => [x, y, zz]
    p.flat([c(x0, y1, w), c(x1, y1, w), c(x1, y1, -w), c(x0, y1, -w)])
    p.flat([c(x0, y0, -w), c(x1, y0, -w), c(x1, y0, w), c(x0, y0, w)])
    p.flat([c(x0, y0, w), c(x1, y0, w), c(x1, y1, w), c(x0, y1, w)])
    p.flat([c(x1, y0, -w), c(x0, y0, -w), c(x0, y1, -w), c(x1, y1, -w)])
    p.flat([c(x1, y0, w), c(x1, y0, -w), c(x1, y1, -w), c(x1, y1, w)])
    p.flat([c(x0, y0, -w), c(x0, y0, w), c(x0, y1, w), c(x0, y1, -w)])
  }
  bar('Bar', -0.66, 0.7, -0.012, 0.012, 0.012)
  bar('Post', -0.014, 0.014, 0.012, 0.21, 0.011)
  p.group('Point')
  for (const [a, b] of [
    [
      [0.69, 0.05],
      [0.69, -0.05],
    ],
  ]) {
    p.flat([
      [...a, 0.008],
      [...b, 0.008],
      [0.83, 0, 0.008],
    ])
    p.flat([
      [0.83, 0, -0.008],
      [...b, -0.008],
      [...a, -0.008],
    ])
    p.flat([
      [...b, -0.008],
      [0.83, 0, -0.008],
      [0.83, 0, 0.008],
      [...b, 0.008],
    ])
    p.flat([
      [0.83, 0, -0.008],
      [...a, -0.008],
      [...a, 0.008],
      [0.83, 0, 0.008],
    ])
    p.flat([
      [...a, -0.008],
      [...b, -0.008],
      [...b, 0.008],
      [...a, 0.008],
    ])
  }
  return p.text()
}
/** Eight ribs, the skin hangs between them; a shaft with a crook. The apex of the skin is at the origin. */
function umbrella() {
  const ribs = 8,
    wide = 1,
    high = 0.42,
    steps = 6,
    around = ribs * 6,
    thick = 0.006
  const p = new Prop()
  const at = (r, k, down) => {
    const a = (k / around) * Math.PI * 2
    // 0 on a rib, 1 half way to the next one.
    const between = (1 - Math.cos((k / around) * ribs * Math.PI * 2)) / 2
    const out = r * wide * (1 - between * 0.1 * r * r)
    return [
      out * Math.cos(a),
      -high * (0.28 * r + 0.72 * r * r * r) + between * 0.055 * r * r - between * 0.03 * Math.sin(r * Math.PI) - (down ? thick : 0),
      -out * Math.sin(a),
    ]
  }
  const normal = (r, k, down) => {
    const e = 1e-3,
      u = [at(Math.min(1, r + e), k, down), at(Math.max(0.002, r - e), k, down)],
      v = [at(Math.max(0.02, r), k + 0.05, down), at(Math.max(0.02, r), k - 0.05, down)]
    const a = u[0].map((x, i) => x - u[1][i]),
      b = v[0].map((x, i) => x - v[1][i])
    const n = [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
    return n[1] > 0 === !down ? n : n.map((x) => -x)
  }
  for (const down of [false, true]) {
    p.group(down ? 'Inside' : 'Skin')
    for (let j = 0; j < steps; j++) {
      const [r0, r1] = [j / steps, (j + 1) / steps]
      for (let k = 0; k < around; k++) {
        const q = k + 1
        const list =
          j === 0
            ? [
                [0, k],
                [r1, k],
                [r1, q],
              ]
            : [
                [r0, k],
                [r1, k],
                [r1, q],
                [r0, q],
              ]
        const way = down ? list.toReversed() : list
        p.face(
          way.map(([r, c]) => at(r, r === 0 ? 0 : c % around, down)),
          way.map(([r, c]) => normal(r, c, down)),
        )
      }
    }
  }
  p.group('Rim')
  for (let k = 0; k < around; k++) p.flat([at(1, k, false), at(1, k, true), at(1, (k + 1) % around, true), at(1, (k + 1) % around, false)])
  const circle = (c, radius, across, up) =>
    Array.from({ length: 12 }, (_, i) => {
      const a = (i / 12) * Math.PI * 2
      return c.map((x, n) => x + radius * (Math.cos(a) * across[n] + Math.sin(a) * up[n]))
    })
  p.group('Shaft')
  const shaft = []
  for (let i = 14; i >= 0; i--) {
    const a = (i / 14) * Math.PI
    shaft.push(
      circle(
        [0.075 - 0.075 * Math.cos(a), -0.98 - 0.075 * Math.sin(a), 0],
        i > 1 ? 0.017 : 0.013,
        [Math.cos(a), Math.sin(a), 0],
        [0, 0, -1],
      ),
    )
  }
  shaft.push(circle([0, 0.02, 0], 0.011, [1, 0, 0], [0, 0, -1]), circle([0, 0.07, 0], 0.004, [1, 0, 0], [0, 0, -1]))
  p.loft(shaft, true)
  return p.text()
}
/**
 * A closed skin along a bent line: at each station a middle, two directions across and how wide it is along each. Smooth, finer than the
 * stations.
 */
function skin(prop, name, stations, around = 20, finer = 4) {
  prop.group(name)
  const at = (list, x) => {
    const i = Math.min(list.length - 2, Math.floor(x)),
      t = x - i
    const p = (k) => list[Math.max(0, Math.min(list.length - 1, k))]
    const cubic = (a, b, c, d) => b + 0.5 * t * (c - a + t * (2 * a - 5 * b + 4 * c - d + t * (3 * (b - c) + d - a)))
    return p(i).map((_, k) => cubic(p(i - 1)[k], p(i)[k], p(i + 1)[k], p(i + 2)[k]))
  }
  const flat = stations.map(({ c, u, v, w }) => [...c, ...u, ...v, ...w])
  const rings = []
  for (let k = 0; k <= (stations.length - 1) * finer; k++) {
    const s = at(flat, k / finer)
    const [c, u, v, w] = [s.slice(0, 3), s.slice(3, 6), s.slice(6, 9), s.slice(9).map((x) => Math.max(x, 1e-4))]
    rings.push(
      Array.from({ length: around }, (_, i) => {
        const a = (i / around) * 2 * Math.PI
        return c.map((x, d) => x + u[d] * w[0] * Math.cos(a) + v[d] * w[1] * Math.sin(a))
      }),
    )
  }
  const middle = (ring) => ring.reduce((m, p) => m.map((x, d) => x + p[d] / ring.length), [0, 0, 0])
  const v = [middle(rings[0]), ...rings.flat(), middle(rings.at(-1))]
  const id = (r, k) => 1 + r * around + (k % around)
  let faces = []
  for (let k = 0; k < around; k++) {
    faces.push([0, id(0, k + 1), id(0, k)], [v.length - 1, id(rings.length - 1, k), id(rings.length - 1, k + 1)])
    for (let r = 0; r + 1 < rings.length; r++) faces.push([id(r, k), id(r, k + 1), id(r + 1, k + 1), id(r + 1, k)])
  }
  const cross = (a, b) => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]
  const normal = (f) =>
    cross(
      v[f[1]].map((x, d) => x - v[f[0]][d]),
      v[f[2]].map((x, d) => x - v[f[0]][d]),
    )
  const c = middle(v)
  // Turned so that it encloses its middle.
  if (faces.reduce((sum, f) => sum + normal(f).reduce((s, x, d) => s + x * (v[f[0]][d] - c[d]), 0), 0) < 0)
    faces = faces.map((f) => f.toReversed())
  const normals = v.map(() => [0, 0, 0])
  for (const f of faces)
    for (const i of f)
      normal(f).forEach((x, d) => {
        normals[i][d] += x
      })
  for (const f of faces)
    prop.face(
      f.map((i) => v[i]),
      f.map((i) => normals[i]),
    )
}
const X = [1, 0, 0],
  Y = [0, 1, 0],
  Z = [0, 0, 1]
/** A sitting fox, looking along +X, 0.95 m to the tips of its ears. */
function fox() {
  const p = new Prop()
  const upright = (list) => list.map(([x, y, z, a, b]) => ({ c: [x, y, z], u: X, v: Z, w: [a, b] }))
  skin(
    p,
    'Body',
    upright([
      [-0.06, 0, 0, 0.02, 0.02],
      [-0.08, 0.02, 0, 0.17, 0.14],
      [-0.09, 0.12, 0, 0.225, 0.185],
      [-0.06, 0.26, 0, 0.19, 0.16],
      [0.01, 0.4, 0, 0.145, 0.12],
      [0.055, 0.52, 0, 0.105, 0.092],
      [0.07, 0.62, 0, 0.082, 0.08],
      [0.075, 0.7, 0, 0.05, 0.05],
    ]),
    28,
  )
  skin(
    p,
    'Head',
    [
      [-0.035, 0.735, 0.012, 0.012],
      [-0.01, 0.735, 0.075, 0.07],
      [0.06, 0.74, 0.11, 0.108],
      [0.13, 0.725, 0.09, 0.085],
      [0.19, 0.7, 0.052, 0.046],
      [0.26, 0.68, 0.033, 0.029],
      [0.315, 0.67, 0.02, 0.018],
      [0.33, 0.668, 0.004, 0.004],
    ].map(([x, y, a, b]) => ({ c: [x, y, 0], u: Y, v: Z, w: [a, b] })),
    24,
  )
  for (const side of [-1, 1]) {
    const z = (v) => v * side
    skin(
      p,
      'Ears',
      upright([
        [0.055, 0.8, z(0.055), 0.04, 0.034],
        [0.045, 0.85, z(0.066), 0.034, 0.026],
        [0.03, 0.91, z(0.076), 0.018, 0.013],
        [0.018, 0.952, z(0.082), 0.003, 0.003],
      ]),
      12,
    )
    skin(
      p,
      'Legs',
      upright([
        [0.165, 0.005, z(0.06), 0.034, 0.028],
        [0.16, 0.05, z(0.06), 0.027, 0.025],
        [0.14, 0.2, z(0.058), 0.03, 0.028],
        [0.1, 0.36, z(0.055), 0.042, 0.036],
        [0.06, 0.46, z(0.04), 0.03, 0.03],
      ]),
      14,
    )
    skin(
      p,
      'Paws',
      [
        [0.12, 0.022, 0.01, 0.01],
        [0.15, 0.026, 0.026, 0.03],
        [0.2, 0.024, 0.024, 0.03],
        [0.23, 0.018, 0.006, 0.008],
      ].map(([x, y, a, b]) => ({ c: [x, y, z(0.06)], u: Y, v: Z, w: [a, b] })),
      12,
    )
    skin(
      p,
      'Haunches',
      upright([
        [-0.03, 0.015, z(0.13), 0.06, 0.03],
        [-0.035, 0.06, z(0.145), 0.135, 0.055],
        [-0.05, 0.16, z(0.14), 0.145, 0.07],
        [-0.06, 0.27, z(0.12), 0.1, 0.055],
        [-0.06, 0.33, z(0.1), 0.03, 0.02],
      ]),
      18,
    )
  }
  const tail = [
    [-0.24, 0.07, 0.03, 0.035],
    [-0.35, 0.075, 0.09, 0.055],
    [-0.4, 0.085, 0.2, 0.075],
    [-0.32, 0.09, 0.31, 0.085],
    [-0.17, 0.085, 0.36, 0.075],
    [-0.03, 0.07, 0.345, 0.045],
    [0.05, 0.06, 0.31, 0.006],
  ]
  skin(
    p,
    'Tail',
    tail.map(([x, y, zz, r], i) => {
      const [a, b] = [tail[Math.max(0, i - 1)], tail[Math.min(tail.length - 1, i + 1)]]
      const d = [b[0] - a[0], 0, b[2] - a[2]],
        l = Math.hypot(...d)
      return { c: [x, y, zz], u: Y, v: [-d[2] / l, 0, d[0] / l], w: [r, r] }
    }),
    18,
  )
  return p.text()
}
/** A bell without its clapper: the rim below, the crown at the origin. */
function bell() {
  const p = new Prop()
  const outer = [
    [0.03, 0],
    [0.12, -0.01],
    [0.17, -0.05],
    [0.19, -0.14],
    [0.215, -0.27],
    [0.25, -0.37],
    [0.31, -0.44],
  ]
  const inner = outer.toReversed().map(([r, y]) => [Math.max(0.01, r - 0.028), y - (y > -0.3 ? 0.025 : 0)])
  const ring = ([r, y]) =>
    Array.from({ length: 40 }, (_, i) => [r * Math.cos((-i / 40) * 2 * Math.PI), y, r * Math.sin((-i / 40) * 2 * Math.PI)])
  p.group('Bell')
  p.loft([...outer.toReversed().map(ring)], true)
  p.loft(
    [...inner.toReversed().map(ring)].map((r) => r.toReversed()),
    true,
  )
  p.loft(
    [ring(inner[0]), ring(outer.at(-1))].map((r) => r.toReversed()),
    false,
  )
  p.cap(ring(outer[0]), true)
  return p.text()
}
/**
 * The shell of a whelk by Raup's model (1966): a section that turns about an axis, and with each turn goes on along it and grows by the same factor.
 * About Y, its tip up, half a metre from the tip to the lip; with a wall, so that it can be seen into.
 */
function whelk() {
  const p = new Prop()
  p.shared = new Map()
  const turns = 6.5,
    around = 20,
    steps = 112
  // Each turn is so many times as large as the one before; how far the section lies from the axis and along it.
  const growth = 1.72
  const at = (turn, k, wall) => {
    const s = growth ** (turn - turns)
    const a = (k / around) * Math.PI * 2
    // Longer along the axis than across, drawn out at the lower end into a channel.
    const long = 0.125 * (1 + 0.9 * Math.max(0, -Math.sin(a)) ** 3)
    const [x, y] = [0.092 + 0.098 * wall * Math.cos(a), -0.27 + long * wall * Math.sin(a)]
    const t = turn * Math.PI * 2
    return [s * x * Math.cos(t), s * y + 0.24, s * x * Math.sin(t)]
  }
  const ring = (i, wall) => Array.from({ length: around }, (_, k) => at((turns * i) / steps, around - k, wall))
  const outside = Array.from({ length: steps + 1 }, (_, i) => ring(i, 1))
  // Back in from the lip, as far as one can see.
  const inside = Array.from({ length: 18 }, (_, i) => ring(steps - i, 0.86))
  p.group('shell')
  p.loft(outside, true)
  p.loft([outside.at(-1), ...inside.slice(0, 1)], true)
  p.loft(inside, true)
  return p.text()
}
/** An open harbour boat, clinker-built: five metres along X with its bow forward, the water at y = 0. */
function boat() {
  const p = new Prop()
  const [STATIONS, STRAKES, FINER] = [26, 6, 3]
  const beam = (s) => 0.86 * (1 - (1 - s) ** 2.3) * (1 - 0.3 * s ** 3)
  const sheer = (s) => 0.5 + 0.3 * (1 - s) ** 2 + 0.07 * s * s
  const keel = (s) => -0.26 + 0.62 * (1 - s) ** 7 + 0.05 * s * s
  // From the gunwale (0) down to the keel (1), on one side; `inner`: so much within.
  const point = (s, u, side, inner = 0) => {
    const w = 1 - u
    const z = Math.max(0.012, beam(s) * w ** 0.62 - inner)
    const y = keel(s) + (sheer(s) - keel(s)) * w ** 1.9 + (inner ? 0.03 * u : 0)
    return [2.5 - 5 * s, y, side * z]
  }
  const quad = (a, b, c, d, turned) => p.flat(turned ? [a, d, c, b] : [a, b, c, d])
  p.group('Hull')
  for (const side of [-1, 1])
    for (let i = 0; i < STATIONS; i++) {
      const [s0, s1] = [i / STATIONS, (i + 1) / STATIONS]
      for (let k = 0; k < STRAKES; k++)
        for (let f = 0; f < FINER; f++) {
          // Each plank stands out over the one below it.
          const at = (s, g) => {
            const u = (k + g / FINER) / STRAKES
            const [x, y, z] = point(s, u, side)
            return [x, y, z + side * 0.016 * (g / FINER)]
          }
          quad(at(s0, f), at(s1, f), at(s1, f + 1), at(s0, f + 1), side < 0)
          if (f === FINER - 1 && k + 1 < STRAKES) {
            const below = (s) => point(s, (k + 1) / STRAKES, side)
            quad(at(s0, FINER), at(s1, FINER), below(s1), below(s0), side < 0)
          }
        }
      for (let k = 0; k < 8; k++) {
        const at = (s, g) => point(s, g / 8, side, 0.045)
        quad(at(s0, k), at(s0, k + 1), at(s1, k + 1), at(s1, k), side < 0)
      }
    }
  p.group('Gunwale')
  for (const side of [-1, 1])
    for (let i = 0; i < STATIONS; i++) {
      const edge = (s, out, up) => {
        const [x, y, z] = point(s, 0, side)
        return [x, y + up, z + side * out]
      }
      const [s0, s1] = [i / STATIONS, (i + 1) / STATIONS]
      const around = [
        [0.035, -0.03],
        [0.035, 0.025],
        [-0.055, 0.025],
        [-0.055, -0.03],
      ]
      around.forEach(([o, u], k) => {
        const [o1, u1] = around[(k + 1) % 4]
        quad(edge(s0, o, u), edge(s1, o, u), edge(s1, o1, u1), edge(s0, o1, u1), side > 0)
      })
    }
  p.group('Transom')
  for (const [x, turned] of [
    [0, true],
    [0.05, false],
  ])
    for (const side of [-1, 1])
      for (let k = 0; k < 12; k++) {
        const at = (g) => {
          const [px, y, z] = point(1, g / 12, side)
          return [px + x, y, z]
        }
        const [a, b] = [at(k), at(k + 1)]
        quad(a, b, [b[0], b[1], 0], [a[0], a[1], 0], turned === side > 0)
      }
  p.group('Benches')
  const box = (x0, x1, y0, y1, half) => {
    const ring = (y) => [
      [x1, y, -half],
      [x0, y, -half],
      [x0, y, half],
      [x1, y, half],
    ]
    p.loft([ring(y0), ring(y1)], false)
    p.cap(ring(y1), true)
    p.cap(ring(y0), false)
  }
  // As wide as the hull is within, where they lie.
  const within = (x, y) => {
    const s = (2.5 - x) / 5
    const w = Math.max(0, (y - keel(s)) / (sheer(s) - keel(s))) ** (1 / 1.9)
    return beam(s) * w ** 0.62 - 0.05
  }
  for (const x of [1.2, 0, -1.3]) box(x - 0.13, x + 0.13, 0.26, 0.3, Math.min(within(x - 0.13, 0.26), within(x + 0.13, 0.26)))
  box(-1.5, 1.1, -0.07, -0.04, Math.min(within(-1.5, -0.07), within(1.1, -0.07)))
  return p.text()
}
const hash = (text) => createHash('sha256').update(text).digest('hex')
const shots = {
  'anvil-strike': { 'anvil.obj': anvil(), 'stump.obj': stump(), 'kiln.obj': kiln() },
  'kiln-fire': { 'kiln.obj': kiln() },
  weathervane: { 'vane.obj': vane() },
  'umbrella-rain': { 'umbrella.obj': umbrella() },
  'fox-of-embers': { 'fox.obj': fox() },
  'lantern-swarm': { 'bell.obj': bell() },
  'shell-drift': { 'whelk.obj': whelk() },
  'between-the-moorings': { 'boat.obj': boat() },
}
for (const [shot, files] of Object.entries(shots)) {
  const folder = new URL(`./${shot}/`, import.meta.url)
  mkdirSync(new URL('./assets/', folder), { recursive: true })
  for (const [name, text] of Object.entries(files)) {
    writeFileSync(new URL(`./assets/${name}`, folder), text)
    console.log(`${hash(text)}  ${shot}/${name}`)
  }
}
