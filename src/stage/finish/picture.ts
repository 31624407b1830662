import type * as THREE from 'three'
import { actOfSort, type FinishPass, type FinishView, readerOf, type ToneDrawing, USUAL_TONE } from '../../acts'
import { type ActDoc, type LayerDoc, sampleNumber } from '../../shot'
import { lightTarget } from '../targets'
import { blendPass } from './blend'
import { Earlier } from './earlier'
import { Finisher } from './finisher'
import { onScreen } from './tone'

const finishOf = (doc: ActDoc) => actOfSort(doc.kind, 'finish')
const alive = (layer: LayerDoc | undefined): ActDoc[] => (layer && !layer.muted ? layer.finish.filter((a) => !a.muted) : [])
const passesOf = (doc: ActDoc, view: FinishView): FinishPass[] => finishOf(doc).passes?.(readerOf(doc), view, doc.seed) ?? []

/** What lies at a depth, or over everything: a layer, or a finish of the picture that bends what lies behind an element. */
export type Over = { depth: number | null } & ({ passes: FinishPass[] } | { layer: LayerDoc })
/** Those of the picture that do something at a moment: what has a depth from the farthest on, then layers over everything in their order. */
export function oversOf(picture: LayerDoc | undefined, layers: readonly LayerDoc[], view: FinishView): Over[] {
  const bends = alive(picture).flatMap((doc): Over[] => {
    const id = finishOf(doc).lies?.(readerOf(doc))
    const at = id ? view.seen(id) : null
    const passes = at ? passesOf(doc, view) : []
    return at && passes.length ? [{ depth: at.depth, passes }] : []
  })
  const over = layers.flatMap((layer): Over[] => {
    if (sampleNumber(layer.opacity, view.t) <= 0) return []
    const at = layer.lies ? view.seen(layer.lies) : null
    // What it lies at is behind the camera, and so is the layer.
    return layer.lies && !at ? [] : [{ depth: at?.depth ?? null, layer }]
  })
  const far = (o: Over) => o.depth ?? Number.NEGATIVE_INFINITY
  return [...bends, ...over].sort((a, b) => far(b) - far(a))
}
/** Its finishes in their order; of the picture without those that bend. */
const restOf = (layer: LayerDoc | undefined, view: FinishView, isPicture: boolean): { doc: ActDoc; passes: FinishPass[] }[] =>
  alive(layer)
    .filter((doc) => !isPicture || !finishOf(doc).lies?.(readerOf(doc)))
    .map((doc) => ({ doc, passes: passesOf(doc, view) }))
    .filter((x) => x.passes.length)
export function toneOf(layer: LayerDoc | undefined, t: number): ToneDrawing {
  const doc = alive(layer).findLast((d) => finishOf(d).tone)
  return (doc && finishOf(doc).tone?.(readerOf(doc), t)) ?? USUAL_TONE
}

/** What is nearer goes over: light as much as is there, by its alpha. */
const NEARER: FinishPass = {
  point: true,
  glsl: 'vec4 finish(vec4 c, vec2 uv) { vec4 n = texture(nearer, uv); return n + c * (1.0 - clamp(n.a, 0.0, 1.0)); }',
  reads: { nearer: 'nearer' },
}
export interface Drawing {
  /** The picture between two depths along the way, m. */
  between(near: number | null, far: number | null): THREE.WebGLRenderTarget
  /** What a layer holds, on nothing. */
  layer(layer: LayerDoc): THREE.WebGLRenderTarget
  /** What a layer is cut by, white where it is seen; `known`: pictures of layers that are there. Null: nothing is chosen. */
  stencil(layer: LayerDoc, known: ReadonlyMap<string, THREE.Texture>): THREE.Texture | null
}
interface Kept {
  finisher: Finisher
  light: THREE.WebGLRenderTarget
}
/** Makes the finished picture out of what was drawn. */
export class Finishing {
  private finisher = new Finisher()
  /** Of each layer by its id what it is as it goes over the others, until the next picture. */
  pictures: ReadonlyMap<string, THREE.Texture> = new Map()
  readonly earlier = new Earlier()
  private kept = new Map<string, Kept>()

  /** The picture with what lies over it, from the farthest on; what is nearer than each goes over that again. */
  composed(
    r: THREE.WebGLRenderer,
    overs: readonly Over[],
    d: Drawing,
    view: FinishView,
    transparent: boolean,
    id: string,
  ): THREE.WebGLRenderTarget {
    this.sweep(overs)
    const { width, height } = view
    // Each layer and what cuts it first: they take the same passes.
    const known = new Map<string, THREE.Texture>()
    this.pictures = known
    const depths = overs.flatMap((o) => (o.depth === null ? [] : [o.depth]))
    const base = d.between(depths[0] ?? null, null)
    known.set(id, base.texture)
    if (!overs.length) return base
    for (const o of overs) if ('layer' in o) known.set(o.layer.id, this.layer(r, o.layer, d, view))
    const cuts = new Map(overs.flatMap((o) => ('layer' in o ? [[o.layer.id, d.stencil(o.layer, known)] as const] : [])))
    const f = this.finisher
    f.begin(base.texture, width, height, transparent)
    let at = 0
    for (const o of overs) {
      if ('passes' in o) f.add(r, o.passes)
      else {
        const cut = cuts.get(o.layer.id)
        const { blend, opacity, cutOutside } = o.layer
        const pass = blendPass(blend, sampleNumber(opacity, view.t) / 100, !!cut, cutOutside)
        f.add(r, [pass], { layer: known.get(o.layer.id) as THREE.Texture, ...(cut ? { stencil: cut } : {}) })
      }
      if (o.depth === null) continue
      const nearer = d.between(depths[at + 1] ?? null, o.depth)
      f.add(r, [NEARER], { nearer: nearer.texture })
      at++
      // The next draws into the same picture.
      if (at < depths.length) f.light(r)
    }
    const { light } = this.keep('', width, height)
    f.end(r, null, light)
    return light
  }
  /** A layer with its finishes. */
  private layer(r: THREE.WebGLRenderer, layer: LayerDoc, d: Drawing, view: FinishView): THREE.Texture {
    const drawn = d.layer(layer)
    const rest = restOf(layer, view, false)
    if (!rest.length) return drawn.texture
    const { finisher, light } = this.keep(layer.id, view.width, view.height)
    finisher.begin(drawn.texture, view.width, view.height, true)
    this.runAll(r, finisher, layer, false, rest, view)
    finisher.end(r, null, light)
    return light.texture
  }
  private runAll(
    r: THREE.WebGLRenderer,
    f: Finisher,
    layer: LayerDoc,
    isAll: boolean,
    rest: ReturnType<typeof restOf>,
    view: FinishView,
  ): void {
    const { width, height, step, t } = view
    for (const { doc, passes } of rest) {
      const looksBack = finishOf(doc).earlier
      f.add(r, passes, looksBack ? this.earlier.at(r, layer, isAll, doc, f.light(r), [width, height], step, t) : {})
    }
  }
  private keep(id: string, width: number, height: number): Kept {
    let k = this.kept.get(id)
    if (k?.light.width !== width || k.light.height !== height) {
      k?.light.dispose()
      k = { finisher: k?.finisher ?? new Finisher(), light: lightTarget(width, height) }
      this.kept.set(id, k)
    }
    return k
  }
  private sweep(overs: readonly Over[]): void {
    const there = new Set(overs.flatMap((o) => ('layer' in o ? [o.layer.id] : [])))
    for (const [id, k] of this.kept) {
      if (id === '' || there.has(id)) continue
      k.finisher.dispose()
      k.light.dispose()
      this.kept.delete(id)
    }
  }
  /** Runs steps over a picture into a target. */
  run(r: THREE.WebGLRenderer, source: THREE.Texture, passes: readonly FinishPass[], to: THREE.WebGLRenderTarget): void {
    this.finisher.begin(source, to.width, to.height, true)
    this.finisher.add(r, passes)
    this.finisher.end(r, null, to)
  }
  /** The finishes of the picture over light, and screen values at the end. */
  show(
    r: THREE.WebGLRenderer,
    source: THREE.Texture,
    layer: LayerDoc | undefined,
    view: FinishView,
    transparent: boolean,
    to: THREE.WebGLRenderTarget | null,
    how: { marks?: boolean; dither?: number; steps?: number } = {},
  ): void {
    this.finish(r, source, layer, view, transparent)
    this.finisher.end(r, onScreen(toneOf(layer, view.t), { ...how, transparent }), to)
  }
  /** The same, as light before the tone curve. */
  finished(
    r: THREE.WebGLRenderer,
    source: THREE.Texture,
    layer: LayerDoc | undefined,
    view: FinishView,
    transparent: boolean,
    to: THREE.WebGLRenderTarget,
  ): void {
    this.finish(r, source, layer, view, transparent)
    this.finisher.end(r, null, to)
  }
  /** Whether a picture has finishes of its own, beside the tone. */
  changes = (layer: LayerDoc, view: FinishView): boolean => restOf(layer, view, true).length > 0
  private finish(r: THREE.WebGLRenderer, source: THREE.Texture, layer: LayerDoc | undefined, view: FinishView, transparent: boolean): void {
    this.finisher.begin(source, view.width, view.height, transparent)
    if (layer) this.runAll(r, this.finisher, layer, true, restOf(layer, view, true), view)
  }
  dispose(): void {
    this.earlier.dispose()
    this.finisher.dispose()
    for (const k of this.kept.values()) {
      k.finisher.dispose()
      k.light.dispose()
    }
    this.kept.clear()
  }
}
