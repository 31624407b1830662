// A gas burns, cools and thins out.
import {
  GAS_BURN_RATE,
  GAS_COOLING,
  GAS_DENSITY_LEFT,
  GAS_DIMS,
  GAS_DT,
  GAS_DYE_LEFT,
  GAS_EXPAND,
  GAS_EXPANSION,
  GAS_FLAME_LIFE,
  GAS_FLUID,
  GAS_HALVINGS,
  GAS_HEAT,
  GAS_HEAT_LEFT,
  GAS_IGNITION,
  GAS_SCALARS,
  GAS_SOOT,
  GAS_THIN,
  GAS_THIN_BELOW,
} from './layout'
import { rowBytes, slabBytes } from './gasFlow'
import { splat, traced } from './gasSample'
import { exp2x4 } from './math'

/** Fuel that is hot enough burns: it becomes heat, soot and flame, and takes up room. */
export function burnRow(g: usize, r: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const base = <usize>(r % ny) * rowBytes(g) + <usize>(r / ny) * slabBytes(g)
  const d = <usize>load<u32>(g + GAS_SCALARS) + base,
    t = <usize>load<u32>(g + GAS_SCALARS + 4) + base,
    f = <usize>load<u32>(g + GAS_SCALARS + 8) + base,
    b = <usize>load<u32>(g + GAS_SCALARS + 12) + base,
    e = <usize>load<u32>(g + GAS_EXPAND) + base
  const dt = load<f32>(g + GAS_DT)
  const ignition = splat(load<f32>(g + GAS_IGNITION)),
    most = splat(load<f32>(g + GAS_BURN_RATE) * dt),
    heat = splat(load<f32>(g + GAS_HEAT)),
    soot = splat(load<f32>(g + GAS_SOOT)),
    expansion = splat(load<f32>(g + GAS_EXPANSION) / dt),
    zero = splat(0),
    one = splat(1)
  // What burns now shows at once, and goes out over its life.
  const out = exp2x4(splat((<f32>-1.442695 * dt) / max(load<f32>(g + GAS_FLAME_LIFE), <f32>1e-4)))
  for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 16) {
    const fuel = v128.load(f + o),
      flame = v128.load(b + o)
    // Where there is neither, none of it changes: most of a window.
    if (!v128.any_true(v128.or(fuel, flame))) {
      v128.store(e + o, zero)
      continue
    }
    const hot = v128.load(t + o)
    const burns = v128.and(f32x4.ge(hot, ignition), f32x4.pmin(f32x4.pmax(fuel, zero), most))
    v128.store(f + o, traced(f32x4.sub(fuel, burns)))
    v128.store(t + o, f32x4.add(hot, f32x4.mul(burns, heat)))
    v128.store(d + o, f32x4.add(v128.load(d + o), f32x4.mul(burns, soot)))
    const part = f32x4.div(burns, f32x4.pmax(most, splat(1e-20)))
    v128.store(b + o, traced(f32x4.pmax(f32x4.mul(flame, out), f32x4.pmin(part, one))))
    v128.store(e + o, f32x4.mul(burns, expansion))
  }
}
function fadeDye(dye: usize, fluid: usize, left: f32, bytes: usize): void {
  for (let o: usize = 0; o < bytes; o += 16) {
    const rest = traced(f32x4.mul(v128.load(dye + o), splat(left)))
    v128.store(dye + o, fluid ? v128.and(rest, f32x4.gt(v128.load(fluid + o), splat(0))) : rest)
  }
}
/** Heat goes by radiation, dT/dt = −c (T/1000)⁴, exactly over the substep, and by mixing; density and dyes fade. Solid cells hold nothing. */
export function fadeRow(g: usize, r: i32): void {
  const nx = load<i32>(g + GAS_DIMS),
    ny = load<i32>(g + GAS_DIMS + 4)
  const base = <usize>(r % ny) * rowBytes(g) + <usize>(r / ny) * slabBytes(g)
  const d = <usize>load<u32>(g + GAS_SCALARS) + base,
    t = <usize>load<u32>(g + GAS_SCALARS + 4) + base
  const more = <usize>load<u32>(g + GAS_SCALARS + 8)
  const f = more + base,
    b = <usize>load<u32>(g + GAS_SCALARS + 12) + base
  const fluid = <usize>load<u32>(g + GAS_FLUID)
  for (let n: usize = 0; n < 8; n += 4) {
    const dye = <usize>load<u32>(g + GAS_SCALARS + 16 + n)
    if (dye) fadeDye(dye + base, fluid ? fluid + base : 0, load<f32>(g + GAS_DYE_LEFT + n), (<usize>nx) << 2)
  }
  const k = splat((3 * load<f32>(g + GAS_COOLING) * load<f32>(g + GAS_DT)) / 1000),
    left = splat(load<f32>(g + GAS_DENSITY_LEFT)),
    warm = splat(load<f32>(g + GAS_HEAT_LEFT)),
    one = splat(1),
    zero = splat(0)
  const cools = load<f32>(g + GAS_COOLING) > 0
  const thin = splat(load<f32>(g + GAS_THIN)),
    perBelow = splat(<f32>1 / load<f32>(g + GAS_THIN_BELOW)),
    halvings = splat(-load<f32>(g + GAS_HALVINGS)),
    evenly = load<f32>(g + GAS_THIN) == 0
  for (let o: usize = 0, end = (<usize>nx) << 2; o < end; o += 16) {
    const dense = v128.load(d + o),
      hot = v128.load(t + o)
    // What is nothing stays so. Of what burns, fuel and flame are taken out of solid cells as well.
    if (!v128.any_true(v128.or(dense, hot)) && !(more && fluid && v128.any_true(v128.or(v128.load(f + o), v128.load(b + o))))) continue
    const before = f32x4.pmax(dense, zero)
    // The thinner, the faster.
    const goes = evenly
      ? left
      : exp2x4(f32x4.mul(halvings, f32x4.add(one, f32x4.mul(thin, f32x4.pmax(zero, f32x4.sub(one, f32x4.mul(before, perBelow)))))))
    let density = f32x4.mul(before, goes),
      heat = f32x4.mul(f32x4.pmax(hot, zero), warm)
    if (cools) {
      // T / ∛(1 + 3 c dt T³ / 1000⁴), the cube root by Halley's steps from one that is exact at the ends.
      const q = f32x4.mul(heat, splat(0.001))
      const x = f32x4.add(one, f32x4.mul(k, f32x4.mul(q, f32x4.mul(q, q))))
      let y = f32x4.sqrt(f32x4.sqrt(f32x4.mul(x, f32x4.sqrt(f32x4.sqrt(x)))))
      for (let n = 0; n < 2; n++) {
        const c = f32x4.mul(y, f32x4.mul(y, y))
        y = f32x4.mul(y, f32x4.div(f32x4.add(c, f32x4.add(x, x)), f32x4.add(f32x4.add(c, c), x)))
      }
      heat = f32x4.div(heat, y)
    }
    if (fluid) {
      const free = f32x4.gt(v128.load(fluid + base + o), zero)
      density = v128.and(density, free)
      heat = v128.and(heat, free)
      if (more) {
        v128.store(f + o, v128.and(v128.load(f + o), free))
        v128.store(b + o, v128.and(v128.load(b + o), free))
      }
    }
    v128.store(d + o, traced(density))
    v128.store(t + o, traced(heat))
  }
}
