import * as THREE from 'three'
import type { BlendMode } from '../acts'

/** Factors of what is drawn and of what is there, and the same of coverage. Colours are premultiplied; light covers nothing: its own alpha is zero. */
const FACTORS: Record<
  BlendMode,
  readonly [THREE.BlendingSrcFactor, THREE.BlendingDstFactor, THREE.BlendingSrcFactor, THREE.BlendingDstFactor]
> = {
  add: [THREE.OneFactor, THREE.OneFactor, THREE.OneFactor, THREE.OneFactor],
  normal: [THREE.OneFactor, THREE.OneMinusSrcAlphaFactor, THREE.OneFactor, THREE.OneMinusSrcAlphaFactor],
  // s + d − sd, for s up to 1.
  screen: [THREE.OneFactor, THREE.OneMinusSrcColorFactor, THREE.OneFactor, THREE.OneFactor],
  // d (1 − a + ca): where it covers, what is there goes through its colour.
  multiply: [THREE.DstColorFactor, THREE.OneMinusSrcAlphaFactor, THREE.ZeroFactor, THREE.OneFactor],
}
/** The brightest that a mode can take. */
export const brightestOf = (mode: BlendMode): number => (mode === 'screen' ? 1 : 65504)
/** Whether what is drawn covers, as its alpha says, or only gives light. */
export const coversBy = (mode: BlendMode): boolean => mode === 'normal' || mode === 'multiply'
/** How a material joins what is there. `white`: what it goes on began as white without coverage, and gathers some. */
export function setBlending(material: THREE.Material, mode: BlendMode, white = false): void {
  const [src, dst, srcAlpha, dstAlpha] = FACTORS[mode]
  material.blending = THREE.CustomBlending
  material.blendEquation = THREE.AddEquation
  material.blendSrc = src
  material.blendDst = dst
  material.blendSrcAlpha = white ? THREE.OneFactor : srcAlpha
  material.blendDstAlpha = white ? THREE.OneMinusSrcAlphaFactor : dstAlpha
}
/** For what is drawn from the nearest on: under what is there. */
export function setUnder(material: THREE.Material): void {
  material.blending = THREE.CustomBlending
  material.blendEquation = THREE.AddEquation
  material.blendSrc = material.blendSrcAlpha = THREE.OneMinusDstAlphaFactor
  material.blendDst = material.blendDstAlpha = THREE.OneFactor
}
