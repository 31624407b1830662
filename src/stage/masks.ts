import * as THREE from 'three'
import { type MaskDoc, type Shot, sampleNumber } from '../shot'
import { cornersAt, coverage, depthAt, lineOf } from './outline'
import { Pass } from './passes'

/** How much of each pixel a mask hides, by the lower left corner of its rectangle; beyond it, what its outside says. */
const COVER = `
uniform highp sampler2D cover; uniform ivec2 corner; uniform float share; uniform float outside;
float hidden() {
  ivec2 p = ivec2(gl_FragCoord.xy) - corner, size = textureSize(cover, 0);
  float c = all(greaterThanEqual(p, ivec2(0))) && all(lessThan(p, size)) ? texelFetch(cover, p, 0).r : 0.0;
  return share * (outside > 0.5 ? 1.0 - c : c);
}`
const LEAVES = `
precision highp float; out vec4 colour;${COVER}
void main() { colour = vec4(0.0, 0.0, 0.0, hidden()); }`
const BRINGS = `
precision highp float; in vec2 uv; out vec4 colour; uniform sampler2D source;${COVER}
void main() { colour = texture(source, uv) * hidden(); }`

const SHOWS = `
precision highp float; out vec4 colour;${COVER}
void main() { colour = vec4(hidden()); }`

/** What one mask hides of a picture. */
interface Hides {
  /** Of the camera's way, m. */
  depth: number
  set: Record<string, unknown>
}
interface Kept {
  key: string
  texture: THREE.DataTexture
  corner: [number, number]
}
const nothing = { cover: null, corner: [0, 0], share: 1, outside: 0 }

/**
 * Drawn masks. Within one only what is nearer than its depth lies over what is behind: the picture is drawn once more with the camera's far plane
 * there, and takes the place of the first as far as the mask covers. So its edges are as soft as they were drawn, for whatever they cut.
 */
export class Masks {
  private leaves = new Pass(LEAVES, nothing, THREE.CustomBlending)
  private brings = new Pass(BRINGS, { ...nothing, source: null }, THREE.CustomBlending)
  private shows = new Pass(SHOWS, nothing)
  private kept = new Map<string, Kept>()

  constructor() {
    const [a, b] = [this.leaves.material, this.brings.material]
    a.blendSrc = a.blendSrcAlpha = THREE.ZeroFactor
    a.blendDst = a.blendDstAlpha = THREE.OneMinusSrcAlphaFactor
    b.blendSrc = b.blendSrcAlpha = b.blendDst = b.blendDstAlpha = THREE.OneFactor
  }
  /** Those that hide something of the picture of a moment through the shot's camera, the farthest first: of two, the nearer counts. */
  of(shot: Shot, t: number, width: number, height: number): Hides[] {
    const there = new Set(shot.masks.map((m) => m.id))
    for (const [id, k] of this.kept) {
      if (there.has(id)) continue
      k.texture.dispose()
      this.kept.delete(id)
    }
    const cutters = new Set(shot.layers.flatMap((l) => (l.cut === 'outline' && l.cutMask ? [l.cutMask] : [])))
    return shot.masks
      .flatMap((mask): Hides[] => {
        if (mask.muted || cutters.has(mask.id) || (mask.camera && mask.camera !== shot.camera)) return []
        const share = sampleNumber(mask.covers, t) / 100
        const depth = depthAt(shot, mask, t, width / height)
        if (depth === null || share <= 0) return []
        const cover = this.cover(shot, mask, t, width, height)
        if (!cover && !mask.outside) return []
        const outside = mask.outside ? 1 : 0
        return [{ depth, set: { share, outside, cover: cover?.texture ?? this.none, corner: cover?.corner ?? [0, 0] } }]
      })
      .sort((a, b) => b.depth - a.depth)
  }
  private none = (() => {
    const t = new THREE.DataTexture(new Float32Array(1), 1, 1, THREE.RedFormat, THREE.FloatType)
    t.needsUpdate = true
    return t
  })()
  /** Of a mask that lies as before it is the same. */
  private cover(shot: Shot, mask: MaskDoc, t: number, width: number, height: number): Kept | null {
    const corners = cornersAt(shot, mask, t, width / height)
    const feather = (sampleNumber(mask.feather, t) / 100) * height
    const key = JSON.stringify([corners, feather, width, height])
    const known = this.kept.get(mask.id)
    if (known?.key === key) return known
    known?.texture.dispose()
    this.kept.delete(mask.id)
    const c = coverage(lineOf(corners), width, height, feather)
    if (!c) return null
    const texture = new THREE.DataTexture(c.data, c.width, c.height, THREE.RedFormat, THREE.FloatType)
    texture.needsUpdate = true
    const made = { key, texture, corner: [c.left, c.low] as [number, number] }
    this.kept.set(mask.id, made)
    return made
  }
  /** How much each pixel is covered by one, in all channels of a target. */
  draw(r: THREE.WebGLRenderer, shot: Shot, mask: MaskDoc, t: number, to: THREE.WebGLRenderTarget): void {
    const cover = this.cover(shot, mask, t, to.width, to.height)
    const share = sampleNumber(mask.covers, t) / 100
    this.shows.set({ share, outside: mask.outside ? 1 : 0, cover: cover?.texture ?? this.none, corner: cover?.corner ?? [0, 0] }).run(r, to)
  }
  /** Puts what was drawn of what is nearer in the place of what a mask hides. */
  hide(r: THREE.WebGLRenderer, by: Hides, nearer: THREE.Texture, target: THREE.WebGLRenderTarget): void {
    this.leaves.set(by.set).run(r, target)
    this.brings.set({ ...by.set, source: nearer }).run(r, target)
  }
  dispose(): void {
    for (const k of this.kept.values()) k.texture.dispose()
    this.kept.clear()
    this.none.dispose()
    this.shows.dispose()
    this.leaves.dispose()
    this.brings.dispose()
  }
}
