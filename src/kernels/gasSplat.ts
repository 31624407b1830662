// Particles that feed a gas, each along its way.
import {
  PX,
  PY,
  PZ,
  VX,
  VY,
  VZ,
  AGE,
  GAS_DIMS,
  GAS_ROW,
  GAS_SLAB,
  GAS_VELOCITY,
  GAS_SCALARS,
  GAS_VOXEL,
  GAS_LOW,
  GAS_TABLE,
  FEED_MODES,
  FEED_AMOUNTS,
  FEED_DT,
  FEED_OWN,
  FEED_LEAD,
  FEED_COLUMNS,
  FEED_PARTICLES,
  FEED_RADIUS,
  FEED_OUT,
  FEED_AGO,
  FEED_WAY,
  FEED_MODE_ADD,
  FEED_MODE_SET,
  SCALAR_COUNT,
} from './layout'
import { row } from './collider'
import { fed, leadFace, led } from './gasFeed'

/** A direction by a row of a matrix. */
// @ts-ignore: decorator
@inline function turned(m: usize, a: usize, x: f32, y: f32, z: f32): f32 {
  const r = m + (a << 4)
  return load<f32>(r) * x + load<f32>(r, 4) * y + load<f32>(r, 8) * z
}
/** The integral of (1 − d²/r²)² over a ball of radius one. */
const BALL: f32 = 0.95744
/**
 * Feeds by particles, each along its way in the substep: the weight is (1 − d²/r²)², made so that the cells take up together what a ball of
 * that radius would, wherever it lies; one smaller than a cell is as wide as one and thinner by as much. One thread, in their order.
 */
export function splatParticles(g: usize): void {
  const f = <usize>load<u32>(g + GAS_TABLE)
  const columns = <usize>load<u32>(f + FEED_COLUMNS),
    count = load<i32>(f + FEED_PARTICLES)
  const px = <usize>load<u32>(columns + (PX << 2)),
    py = <usize>load<u32>(columns + (PY << 2)),
    pz = <usize>load<u32>(columns + (PZ << 2)),
    vx = <usize>load<u32>(columns + (VX << 2)),
    vy = <usize>load<u32>(columns + (VY << 2)),
    vz = <usize>load<u32>(columns + (VZ << 2)),
    age = <usize>load<u32>(columns + (AGE << 2))
  const out = f + FEED_OUT,
    ago = load<f32>(f + FEED_AGO),
    way = load<f32>(f + FEED_WAY)
  const S = (<usize>load<i32>(g + GAS_ROW)) << 2,
    P = (<usize>load<i32>(g + GAS_SLAB)) << 2
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4),
    nz = load<i32>(g + GAS_DIMS + 8)
  const per: f32 = 1 / load<f32>(g + GAS_VOXEL),
    dt = load<f32>(f + FEED_DT)
  const wanted = load<f32>(f + FEED_RADIUS) * per,
    radius = max(<f32>1.2, wanted),
    thin = wanted < radius ? (wanted / radius) * (wanted / radius) * (wanted / radius) : <f32>1
  const r2 = radius * radius,
    perR2: f32 = 1 / r2,
    whole = BALL * radius * radius * radius
  const leads = load<f32>(f + FEED_LEAD) > 0,
    share = led(f),
    own = load<f32>(f + FEED_OWN)
  for (let n = 0; n < count; n++) {
    const o = (<usize>n) << 2
    const du = load<f32>(vx + o),
      dv = load<f32>(vy + o),
      dw = load<f32>(vz + o)
    const u = turned(out, 0, du, dv, dw),
      v = turned(out, 1, du, dv, dw),
      w = turned(out, 2, du, dv, dw)
    const ox = load<f32>(px + o),
      oy = load<f32>(py + o),
      oz = load<f32>(pz + o)
    const ex = (row(out, 0, ox, oy, oz) - load<f32>(g + GAS_LOW)) * per - <f32>0.5,
      ey = (row(out, 1, ox, oy, oz) - load<f32>(g + GAS_LOW + 4)) * per - <f32>0.5,
      ez = (row(out, 2, ox, oy, oz) - load<f32>(g + GAS_LOW + 8)) * per - <f32>0.5
    const pieces = min(64, max(1, <i32>Mathf.ceil((Mathf.sqrt(u * u + v * v + w * w) * way * per) / (<f32>0.5 * radius))))
    const seconds = way / <f32>pieces
    for (let q = 0; q < pieces; q++) {
      // Not before it was born.
      const late = ago - way + <f32>(pieces - 1 - q) * seconds
      const lived = min(max((load<f32>(age + o) - late) / seconds, <f32>0), <f32>1)
      if (!(lived > 0)) continue
      const part = lived / <f32>pieces,
        back = per * (late + <f32>0.5 * lived * seconds)
      const x = ex - u * back,
        y = ey - v * back,
        z = ez - w * back
      if (!(x > -radius && y > -radius && z > -radius && x < <f32>nx + radius && y < <f32>ny + radius && z < <f32>nz + radius)) continue
      const i0 = <i32>Mathf.ceil(x - radius),
        i1 = <i32>Mathf.floor(x + radius),
        j0 = <i32>Mathf.ceil(y - radius),
        j1 = <i32>Mathf.floor(y + radius),
        k0 = <i32>Mathf.ceil(z - radius),
        k1 = <i32>Mathf.floor(z + radius)
      let sum: f32 = 0
      for (let k = k0; k <= k1; k++)
        for (let j = j0; j <= j1; j++)
          for (let i = i0; i <= i1; i++) {
            const d = ((<f32>i - x) * (<f32>i - x) + (<f32>j - y) * (<f32>j - y) + (<f32>k - z) * (<f32>k - z)) * perR2
            if (d < 1) sum += (<f32>1 - d) * (<f32>1 - d)
          }
      if (!(sum > 0)) continue
      const even = thin * (whole / sum)
      for (let k = max(0, k0); k <= min(nz - 1, k1); k++)
        for (let j = max(0, j0); j <= min(ny - 1, j1); j++)
          for (let i = max(0, i0); i <= min(nx - 1, i1); i++) {
            const d = ((<f32>i - x) * (<f32>i - x) + (<f32>j - y) * (<f32>j - y) + (<f32>k - z) * (<f32>k - z)) * perR2
            if (d >= 1) continue
            const c = (<f32>1 - d) * (<f32>1 - d)
            const at = <usize>k * P + <usize>j * S + ((<usize>i) << 2)
            for (let a: usize = 0; a < SCALAR_COUNT << 2; a += 4) {
              const mode = load<u32>(f + FEED_MODES + a),
                field = <usize>load<u32>(g + GAS_SCALARS + a)
              if (!mode || !field) continue
              const amount = load<f32>(f + FEED_AMOUNTS + a)
              store<f32>(
                field + at,
                mode == FEED_MODE_ADD
                  ? fed(mode, load<f32>(field + at), amount * even * part, c, dt)
                  : fed(mode, load<f32>(field + at), amount * thin, mode == FEED_MODE_SET ? c * part : c, dt),
              )
            }
            if (!leads) continue
            // A cell does half of what leads each of its faces.
            const a = share * c * part
            const fu = <usize>load<u32>(g + GAS_VELOCITY) + at,
              fv = <usize>load<u32>(g + GAS_VELOCITY + 4) + at,
              fw = <usize>load<u32>(g + GAS_VELOCITY + 8) + at
            leadFace(fu, own * u, a, 0)
            leadFace(fu + 4, own * u, a, 0)
            leadFace(fv, own * v, a, 0)
            leadFace(fv + S, own * v, a, 0)
            leadFace(fw, own * w, a, 0)
            leadFace(fw + P, own * w, a, 0)
          }
    }
  }
}
