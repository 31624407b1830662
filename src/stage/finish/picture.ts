import * as THREE from 'three'
import { actOfSort, type FinishPass, type FinishView, readerOf, type ToneDrawing, USUAL_TONE } from '../../acts'
import type { ActDoc, LayerDoc } from '../../shot'
import { Finisher } from './finisher'
import { onScreen } from './tone'

const finishOf = (doc: ActDoc) => actOfSort(doc.kind, 'finish')
const alive = (layer: LayerDoc | undefined): ActDoc[] => (layer && !layer.muted ? layer.finish.filter((a) => !a.muted) : [])
const passesOf = (doc: ActDoc, view: FinishView): FinishPass[] => finishOf(doc).passes?.(readerOf(doc), view, doc.seed) ?? []

/** One that bends what lies behind an element: it comes first, wherever it stands among the finishes of the picture. */
export interface Bend {
  depth: number
  passes: FinishPass[]
}
/** Those that do something at a moment, the farthest first. */
export function bendsOf(layer: LayerDoc | undefined, view: FinishView): Bend[] {
  return alive(layer)
    .flatMap((doc): Bend[] => {
      const id = finishOf(doc).lies?.(readerOf(doc))
      const at = id ? view.seen(id) : null
      const passes = at ? passesOf(doc, view) : []
      return at && passes.length ? [{ depth: at.depth, passes }] : []
    })
    .sort((a, b) => b.depth - a.depth)
}
/** All others of a layer, in their order. */
export const restOf = (layer: LayerDoc | undefined, view: FinishView): FinishPass[][] =>
  alive(layer)
    .filter((doc) => !finishOf(doc).lies?.(readerOf(doc)))
    .map((doc) => passesOf(doc, view))
export function toneOf(layer: LayerDoc | undefined, t: number): ToneDrawing {
  const doc = alive(layer).findLast((d) => finishOf(d).tone)
  return (doc && finishOf(doc).tone?.(readerOf(doc), t)) ?? USUAL_TONE
}

/** What is nearer goes over what a bend has made: light as much as is there, by its alpha. */
const OVER: FinishPass = {
  point: true,
  glsl: 'vec4 finish(vec4 c, vec2 uv) { vec4 n = texture(nearer, uv); return n + c * (1.0 - clamp(n.a, 0.0, 1.0)); }',
  reads: { nearer: 'nearer' },
}
/** A picture that is drawn between two depths along the way, m. */
export type Between = (near: number | null, far: number | null) => THREE.WebGLRenderTarget

/** Makes the finished picture out of what was drawn. */
export class Finishing {
  private finisher = new Finisher()

  /**
   * The picture with its bends, from the farthest on: behind each the picture is bent, and what is nearer goes over it. Light goes back into
   * `target`, which `draw(null, null)` gives too.
   */
  bent(r: THREE.WebGLRenderer, bends: readonly Bend[], draw: Between, view: FinishView, transparent: boolean): THREE.WebGLRenderTarget {
    if (!bends.length) return draw(null, null)
    const { width, height } = view
    const target = draw(bends[0].depth, null)
    this.finisher.begin(target.texture, width, height, transparent)
    for (const [i, b] of bends.entries()) {
      this.finisher.add(r, b.passes)
      const nearer = draw(bends[i + 1]?.depth ?? null, b.depth)
      this.finisher.add(r, [OVER], { nearer: nearer.texture })
      // The next draws into the same picture.
      if (i + 1 < bends.length) this.finisher.light(r)
    }
    this.light = this.light?.width === width && this.light.height === height ? this.light : lightTarget(this.light, width, height)
    this.finisher.end(r, null, this.light)
    return this.light
  }
  private light: THREE.WebGLRenderTarget | null = null
  /** The finishes of a layer over light, and screen values at the end. */
  show(
    r: THREE.WebGLRenderer,
    source: THREE.Texture,
    layer: LayerDoc | undefined,
    view: FinishView,
    transparent: boolean,
    to: THREE.WebGLRenderTarget | null,
  ): void {
    this.finisher.begin(source, view.width, view.height, transparent)
    for (const passes of restOf(layer, view)) this.finisher.add(r, passes)
    this.finisher.end(r, onScreen(toneOf(layer, view.t)), to)
  }
  dispose(): void {
    this.finisher.dispose()
    this.light?.dispose()
  }
}
function lightTarget(old: THREE.WebGLRenderTarget | null, width: number, height: number): THREE.WebGLRenderTarget {
  old?.dispose()
  return new THREE.WebGLRenderTarget(width, height, {
    ...{ type: THREE.HalfFloatType, depthBuffer: false, magFilter: THREE.LinearFilter, minFilter: THREE.LinearFilter },
  })
}
