import * as THREE from 'three'
import { shotPose } from '../acts'
import { axesOf, looksOfPose, loopedTime, type Pose, type Shot, type Vec3 } from '../shot'
import type { DrawContext } from './drawer'
import { Pass } from './passes'
import type { Picture } from './picture'

const MEAN = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D before; uniform sampler2D fresh; uniform float part;
void main() { colour = mix(texture(before, uv), texture(fresh, uv), part); }`

/** The number k of a sequence of Halton (1960) in a base: any first part of it lies evenly between 0 and 1. */
function halton(k: number, base: number): number {
  let [out, f] = [0, 1 / base]
  for (let i = k; i > 0; i = Math.floor(i / base), f /= base) out += (i % base) * f
  return out
}
/** Place k of a lens of radius 1: evenly over a disc, or over the polygon of its blades whose corners lie on it; turn in degrees. The first is the middle. */
export function lensPoint(k: number, blades: number, turn: number): [number, number] {
  const out = Math.sqrt(halton(k, 2))
  const round = halton(k, 3)
  if (blades < 3) return [out * Math.cos(2 * Math.PI * round), out * Math.sin(2 * Math.PI * round)]
  const side = Math.floor(round * blades)
  const along = round * blades - side
  const corner = (i: number) => (2 * Math.PI * i) / blades + (turn * Math.PI) / 180
  const mix = (f: (a: number) => number) => f(corner(side)) * (1 - along) + f(corner(side + 1)) * along
  return [out * mix(Math.cos), out * mix(Math.sin)]
}
/** A pose seen from a place of its lens: what lies in the plane of its focus stays where it is in the picture. */
export function throughLens(p: Pose, k: number, aspect: number): Pose {
  const { blur, ...rest } = p
  if (!blur) return rest
  const { right, up } = axesOf(p)
  const [u, v] = lensPoint(k, blur.blades, blur.turn).map((x) => x * blur.radius)
  const moved = (a: Vec3) => a.map((x, i) => x + right[i] * u + up[i] * v) as Vec3
  const reach = p.lens / 18 / blur.focus
  const [sx, sy] = p.shift ?? [0, 0]
  return { ...rest, place: moved(p.place), aim: moved(p.aim), shift: [sx - u * reach, sy - v * reach * aspect] }
}
/** The part of the shutter's time that look k of so many sees: each once, and any first few of them spread over all of it. */
export function momentOf(k: number, many: number): number {
  const at = halton(k, 2)
  let before = 0
  for (let i = 0; i < many; i++) if (halton(i, 2) < at) before++
  return before
}
/** One look of those that a picture is gathered from: at a moment, from a place of the lens; or the only one, through the middle of both. */
export function lookAt(
  shot: Shot,
  wanted: Picture,
): { p: Picture; shutter: DrawContext['shutter']; lens: DrawContext['lens']; gathers: boolean } {
  const { lens: k, pose, t, width, height, through } = wanted
  const { open, blur } = pose
  const many = looksOfPose(pose)
  const slice = open ? open.seconds / (k === undefined ? 1 : many) : 0
  const ahead = k === undefined || !open ? 0 : (momentOf(k, many) + 0.5 - many / 2) * slice
  const at = ahead ? loopedTime(shot, t + ahead) : t
  const then = ahead && through ? shotPose(shot, at) : pose
  // A dot is a disc in each look, so large that those of all looks together fill its circle.
  const radius = blur ? (blur.radius * (pose.lens / 36) * width) / (k === undefined ? 1 : Math.sqrt(many)) : 0
  return {
    p: k === undefined ? wanted : { ...wanted, t: at, pose: throughLens(then, k, width / height) },
    shutter: [ahead, slice],
    lens: [radius, blur ? 1 / blur.focus : 0],
    gathers: k !== undefined,
  }
}
/**
 * Depth of field by looking from many places of the lens (Cook, Porter and Carpenter 1984): the mean of their pictures is exact for whatever is
 * drawn, in front of what is sharp as behind it, as far as there are enough of them. Motion the same way: each look is at another moment of the
 * open shutter.
 */
export class Lens {
  private mean = new Pass(MEAN, { before: null, fresh: null, part: 1 })
  private sums: [THREE.WebGLRenderTarget, THREE.WebGLRenderTarget] | null = null

  /** Takes in the picture from place k, and puts the mean of all so far in its place. */
  gather(r: THREE.WebGLRenderer, target: THREE.WebGLRenderTarget, k: number): void {
    const { width, height } = target
    if (this.sums?.[0].width !== width || this.sums[0].height !== height) {
      this.drop()
      const make = () =>
        new THREE.WebGLRenderTarget(width, height, {
          ...{ type: THREE.FloatType, depthBuffer: false, minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter },
        })
      this.sums = [make(), make()]
    }
    const sums = this.sums as [THREE.WebGLRenderTarget, THREE.WebGLRenderTarget]
    this.mean.set({ before: sums[1].texture, fresh: target.texture, part: k ? 1 / (k + 1) : 1 }).run(r, sums[0])
    this.mean.set({ before: sums[0].texture, fresh: sums[0].texture, part: 1 }).run(r, target)
    this.sums = [sums[1], sums[0]]
  }
  private drop(): void {
    for (const t of this.sums ?? []) t.dispose()
    this.sums = null
  }
  dispose(): void {
    this.drop()
    this.mean.dispose()
  }
}
