import type { Matrix } from '../math'
import { f32, i32, u32 } from '../memory'
import { defineOp } from './define'
import { biasOf, type Falloff, falloffIndex, perSoft } from './falloff'
import type { OpWriter } from './writer'

const SHAPES = ['above', 'ball', 'box'] as const
export const limitShapeOp = defineOp({
  name: 'limitShape',
  code: 13,
  group: 'limit',
  kernel: 'limits',
  words: { shape: i32(), falloff: i32(), outside: u32(), perSoft: f32(), half: f32(3), into: f32(12), bias: f32() },
})
/** They act inside a shape: half sizes and soft edge in its own space, into which `into` leads. */
export function encodeLimitShape(
  w: OpWriter,
  p: {
    shape: (typeof SHAPES)[number]
    half: readonly [number, number, number]
    soft: number
    falloff: Falloff
    bias?: number
    outside: boolean
    into: Matrix
  },
): void {
  const { half, into } = p
  const falloff = falloffIndex(p.falloff)
  const outside = p.outside ? 1 : 0
  w.write(limitShapeOp, { shape: SHAPES.indexOf(p.shape), falloff, outside, perSoft: perSoft(p.soft), half, into, bias: biasOf(p.bias) })
}
