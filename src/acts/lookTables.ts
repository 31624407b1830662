import { MARCH_SAMPLES } from '../engine'
import { type Curve, type LookDoc, sampleCurve, sampleRamp } from '../shot'

/** As many as the march of a gas reads. */
export const LOOK_SAMPLES = MARCH_SAMPLES
/** Per sample of life: red, green, blue, opacity, factor on the size. */
export const LOOK_STRIDE = 5

const tables = new WeakMap<LookDoc, Float32Array>()
/** The look as a table over life, which the stage samples as a texture and exporters sample here, both linearly. */
export function lookTable(look: LookDoc): Float32Array {
  const known = tables.get(look)
  if (known) return known
  const out = new Float32Array(LOOK_SAMPLES * LOOK_STRIDE)
  for (let i = 0; i < LOOK_SAMPLES; i++) {
    const x = i / (LOOK_SAMPLES - 1)
    out.set([...sampleRamp(look.colour, x), sampleCurve(look.opacity, x), sampleCurve(look.size, x)], i * LOOK_STRIDE)
  }
  tables.set(look, out)
  return out
}
/** Red, green, blue, opacity and factor on the size at a place of a table, 0 to 1. */
export function sampleLook(table: Float32Array, at: number): number[] {
  const x = Math.min(1, Math.max(0, at)) * (LOOK_SAMPLES - 1)
  const i = Math.min(LOOK_SAMPLES - 2, Math.floor(x))
  const f = x - i
  return [0, 1, 2, 3, 4].map((k) => table[i * LOOK_STRIDE + k] * (1 - f) + table[(i + 1) * LOOK_STRIDE + k] * f)
}
/** The place of the sample that is nearest to one. */
export const nearestSample = (at: number): number =>
  Math.floor(Math.min(1, Math.max(0, at)) * (LOOK_SAMPLES - 1) + 0.5) / (LOOK_SAMPLES - 1)
const sizes = new WeakMap<LookDoc, Float32Array>()
/** The look's factor on the size alone, over life. */
export function sizeCurve(look: LookDoc): Float32Array {
  let out = sizes.get(look)
  if (!out) {
    const table = lookTable(look)
    sizes.set(look, (out = Float32Array.from({ length: LOOK_SAMPLES }, (_, i) => table[i * LOOK_STRIDE + 4])))
  }
  return out
}
const curves = new WeakMap<Curve, Float32Array>()
/** A curve as a table, which the document shares while it stays the same. */
export function curveTable(curve: Curve): Float32Array {
  let out = curves.get(curve)
  if (!out) curves.set(curve, (out = Float32Array.from({ length: LOOK_SAMPLES }, (_, i) => sampleCurve(curve, i / (LOOK_SAMPLES - 1)))))
  return out
}
/** A table of single numbers at a place, 0 to 1. */
export function sampleTable(table: Float32Array, at: number): number {
  const x = Math.min(1, Math.max(0, at)) * (table.length - 1)
  const i = Math.min(table.length - 2, Math.floor(x))
  return table[i] + (table[i + 1] - table[i]) * (x - i)
}
