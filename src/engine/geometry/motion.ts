/** Keys of one quality of a node: seconds, and as many numbers a key as it has (3 for cubic: in-tangent, value, out-tangent). */
export interface MotionChannel {
  node: number
  path: 'translation' | 'rotation' | 'scale' | 'weights'
  ease: 'step' | 'linear' | 'cubic'
  times: Float32Array
  values: Float32Array
}
export interface MotionNode {
  /** -1: none. Parents come first. */
  parent: number
  translation: [number, number, number]
  /** Quaternion x, y, z, w. */
  rotation: [number, number, number, number]
  scale: [number, number, number]
  weights: number[]
}
/** Vertices that move with a node, or with the bones of a skin, after their morphs. */
export interface MotionPiece {
  firstVertex: number
  vertexCount: number
  node: number
  /** xyz as the file has them, before any node. */
  places: Float32Array
  /** Offsets of the places, one list a morph. */
  morphs: Float32Array[]
  skin: {
    joints: number[] /** 4x4 by columns, one a joint. */
    inverse: Float32Array /** four a vertex */
    index: Uint16Array
    weight: Float32Array
  } | null
}
/** How a mesh moves by itself: nodes with keys, skins and morphs (glTF 2.0), or a list of poses. */
export type Motion =
  | { kind: 'nodes'; lengthS: number; nodes: MotionNode[]; channels: MotionChannel[]; pieces: MotionPiece[] }
  | { kind: 'poses'; lengthS: number; rate: number; poses: Float32Array[] }

function sample(c: MotionChannel, t: number, size: number, out: number[]): void {
  const n = c.times.length
  const stride = c.ease === 'cubic' ? size * 3 : size
  const value = (k: number, i: number) => c.values[k * stride + (c.ease === 'cubic' ? size : 0) + i]
  let k = 0
  while (k + 1 < n && c.times[k + 1] <= t) k++
  if (k + 1 >= n || t <= c.times[0] || c.ease === 'step') {
    for (let i = 0; i < size; i++) out[i] = value(k, i)
  } else {
    const span = c.times[k + 1] - c.times[k]
    const f = span > 0 ? (t - c.times[k]) / span : 0
    if (c.ease === 'cubic') {
      const f2 = f * f,
        f3 = f2 * f
      for (let i = 0; i < size; i++) {
        const leave = c.values[k * stride + size * 2 + i] * span,
          arrive = c.values[(k + 1) * stride + i] * span
        out[i] = (2 * f3 - 3 * f2 + 1) * value(k, i) + (f3 - 2 * f2 + f) * leave + (3 * f2 - 2 * f3) * value(k + 1, i) + (f3 - f2) * arrive
      }
    } else {
      // The shorter way round, evenly over the chord: from + × ÷ and sqrt alone. Between keys a few degrees apart it is slerp to a
      // thousandth.
      let dot = 1
      if (c.path === 'rotation')
        dot = value(k, 0) * value(k + 1, 0) + value(k, 1) * value(k + 1, 1) + value(k, 2) * value(k + 1, 2) + value(k, 3) * value(k + 1, 3)
      const sign = dot < 0 ? -1 : 1
      for (let i = 0; i < size; i++) out[i] = value(k, i) + f * (sign * value(k + 1, i) - value(k, i))
    }
  }
  if (c.path === 'rotation') {
    const l = Math.sqrt(out[0] * out[0] + out[1] * out[1] + out[2] * out[2] + out[3] * out[3]) || 1
    for (let i = 0; i < 4; i++) out[i] /= l
  }
}
/** 4x4 by columns. */
type M4 = Float64Array
function compose(t: number[], q: number[], s: number[]): M4 {
  const [x, y, z, w] = q
  return Float64Array.from([
    (1 - 2 * (y * y + z * z)) * s[0],
    2 * (x * y + z * w) * s[0],
    2 * (x * z - y * w) * s[0],
    0,
    2 * (x * y - z * w) * s[1],
    (1 - 2 * (x * x + z * z)) * s[1],
    2 * (y * z + x * w) * s[1],
    0,
    2 * (x * z + y * w) * s[2],
    2 * (y * z - x * w) * s[2],
    (1 - 2 * (x * x + y * y)) * s[2],
    0,
    t[0],
    t[1],
    t[2],
    1,
  ])
}
function times(a: ArrayLike<number>, b: ArrayLike<number>, ao = 0, bo = 0): M4 {
  const out = new Float64Array(16)
  for (let c = 0; c < 4; c++)
    for (let r = 0; r < 4; r++)
      out[c * 4 + r] =
        a[ao + r] * b[bo + c * 4] +
        a[ao + 4 + r] * b[bo + c * 4 + 1] +
        a[ao + 8 + r] * b[bo + c * 4 + 2] +
        a[ao + 12 + r] * b[bo + c * 4 + 3]
  return out
}

/** Where nodes stand at a moment, 4 × 4 by columns, and the weights of their morphs. `t`: s. */
export function nodesAt(
  motion: { nodes: MotionNode[]; channels: MotionChannel[] },
  t: number,
): { world: Float64Array[]; weights: number[][] } {
  const world: M4[] = []
  const weights: number[][] = []
  const local = motion.nodes.map((n) => ({
    translation: [...n.translation],
    rotation: [...n.rotation],
    scale: [...n.scale],
    weights: [...n.weights],
  }))
  for (const c of motion.channels)
    sample(c, t, c.path === 'rotation' ? 4 : c.path === 'weights' ? local[c.node].weights.length : 3, local[c.node][c.path])
  motion.nodes.forEach((n, i) => {
    const own = compose(local[i].translation, local[i].rotation, local[i].scale)
    world.push(n.parent >= 0 ? times(world[n.parent], own) : own)
    weights.push(local[i].weights)
  })
  return { world, weights }
}
/**
 * Places of all vertices, xyz each, `still` where nothing moves them, at a moment of the motion, in seconds from its beginning; before and
 * behind it, its ends.
 */
export function motionAt(still: Float32Array, motion: Motion, at: number): Float32Array {
  const t = Math.min(motion.lengthS, Math.max(0, at))
  if (motion.kind === 'poses') {
    const x = Math.min(motion.poses.length - 1, t * motion.rate)
    const k = Math.floor(x)
    const f = x - k
    const a = motion.poses[k]
    if (f < 1e-9) return a
    const b = motion.poses[Math.min(k + 1, motion.poses.length - 1)]
    return a.map((v, i) => v + f * (b[i] - v))
  }
  const { world, weights } = nodesAt(motion, t)
  const out = still.slice()
  for (const p of motion.pieces) {
    let places = p.places
    const w = weights[p.node]
    if (p.morphs.some((_, k) => w[k])) {
      places = places.slice()
      p.morphs.forEach((m, k) => {
        const share = w[k]
        if (share) for (let i = 0; i < places.length; i++) places[i] += share * m[i]
      })
    }
    const bones = p.skin?.joints.map((j, k) => times(world[j], p.skin?.inverse as Float32Array, 0, k * 16))
    const m = world[p.node]
    for (let v = 0; v < p.vertexCount; v++) {
      const x = places[v * 3],
        y = places[v * 3 + 1],
        z = places[v * 3 + 2]
      const o = (p.firstVertex + v) * 3
      if (p.skin && bones) {
        let sx = 0,
          sy = 0,
          sz = 0,
          sum = 0
        for (let k = 0; k < 4; k++) {
          const share = p.skin.weight[v * 4 + k]
          const b = bones[p.skin.index[v * 4 + k]]
          if (!share || !b) continue
          sum += share
          sx += share * (b[0] * x + b[4] * y + b[8] * z + b[12])
          sy += share * (b[1] * x + b[5] * y + b[9] * z + b[13])
          sz += share * (b[2] * x + b[6] * y + b[10] * z + b[14])
        }
        const n = sum > 0 ? 1 / sum : 0
        out[o] = sx * n
        out[o + 1] = sy * n
        out[o + 2] = sz * n
      } else {
        out[o] = m[0] * x + m[4] * y + m[8] * z + m[12]
        out[o + 1] = m[1] * x + m[5] * y + m[9] * z + m[13]
        out[o + 2] = m[2] * x + m[6] * y + m[10] * z + m[14]
      }
    }
  }
  return out
}
