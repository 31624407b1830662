import * as THREE from 'three'
import { shotCamera } from '../acts'
import type { UnderTufts } from '../engine'
import { moves } from '../shot'
import type { Backdrop } from './backdrop'
import { Hiding } from './hiding'
import { type HoldOuts, setHides } from './holdOuts'
import type { Objects } from './objects'
import type { Painted, Picture } from './picture'
import { middleOf, ShadeOver } from './shadeOver'
import { viewOf } from './shades'
import { depthOnly, showOnly } from './someObjects'
import type { Made } from './targets'

/** What of the objects is drawn. */
export interface Part {
  layer: string
  /** On nothing, without what lies behind everything. */
  alone: boolean
  /** Whether objects or bodies are in layers beside the picture. */
  splits: boolean
  isShown(element: string): boolean
  /** How many of those that hide with a soft edge hide already; the others do not hide yet. */
  held: number
}
interface Drawn {
  /** What it depends on, without the time of a moving backdrop and what gases leave of the key light. */
  state: string
  /** The time of a backdrop that moves by itself; empty for one that does not. */
  alive: string
  /** Which shade of gases is in it. */
  shade: number
  /** What its depths depend on. */
  shape: string
}
/** What shows where nothing is. */
const behindOf = (p: Picture, { shot }: Painted): readonly [number, number, number, number] =>
  p.transparent ? [0, 0, 0, 0] : [...shot.surroundings.colour, 1]
/**
 * The picture of what is opaque, with its depth: kept while nothing of it changes. While only what gases leave of the key light does, the key light's
 * share of it is kept apart, and nothing is drawn again.
 */
export class ObjectsPicture {
  /** Whether a picture of light lit the last one from all around. */
  around = false
  private hiding = new Hiding()
  private over = new ShadeOver()
  private drawn = new WeakMap<THREE.WebGLRenderTarget, Drawn>()
  /** Whether the last picture is kept for the next one as well. */
  private stays = false
  /** Whether what lies behind everything is not in the last picture, since it moves by itself. */
  private behind = false
  private pixel = new THREE.WebGLRenderTarget(1, 1)

  constructor(
    private renderer: THREE.WebGLRenderer,
    private camera: THREE.PerspectiveCamera,
    private objects: Objects,
    private backdrop: Backdrop,
    private holdOuts: HoldOuts,
  ) {}
  /** Gives the target that it lies in. */
  draw(p: Picture, now: Painted, targets: Made, part: Part): THREE.WebGLRenderTarget {
    const { renderer: r, objects, camera } = this
    const { scene } = objects
    const { shot, meshes } = now
    const { t, width, height, transparent } = p
    const behind = this.backdrop.set(r, scene, { shot, meshes, t, width, height, transparent, through: !!p.through })
    this.around = behind.around
    const moved = objects.place(t, shot.lights, { editing: p.editing, around: behind.around, camera })
    for (const l of scene.children)
      if (moved && 'shadow' in l && (l as THREE.SpotLight).castShadow) (l as THREE.SpotLight).shadow.needsUpdate = true
    const { place, aim, lens, roll = 0, shift = [0, 0] } = p.pose
    const waiting = this.holdOuts.of(shot, t).slice(part.held)
    const { alive } = behind
    const view = `${behind.state} ${alive !== ''} ${place} ${aim} ${lens} ${roll} ${shift} ${!!p.editing} ${transparent} ${camera.near} ${camera.far} ${part.layer} ${part.held}`
    const state = `${objects.stateAt(t)} ${view} ${now.lit}`
    const { shading } = objects
    const shade = shading ? objects.shadeRevision : 0
    const whole = !part.splits && !part.alone
    const plain = whole && !waiting.length
    const apart = plain && shading === 'apart' && this.isWorthIt(p, now, targets, { state, alive, shade })
    const target = apart ? targets.apart : targets.still
    const last = this.drawn.get(target)
    this.behind = apart && alive !== ''
    this.stays = apart
      ? !this.behind
      : plain && alive === '' && shading !== 'within' && (p.final ? this.isStill(p, now) : last?.state === state)
    if (last?.state === state && (apart || (last.alive === alive && last.shade === shade))) return target
    this.drawn.set(target, { state, alive, shade, shape: `${objects.shapeAt(t)} ${view}` })
    r.setRenderTarget(target)
    if (transparent || apart) r.setClearColor(0, 0)
    else r.setClearColor(new THREE.Color().setRGB(...shot.surroundings.colour), 1)
    for (const o of waiting) setHides(objects.meshOf(o.id), false)
    // By the renderer itself: what is seen through clear objects is cleared by it too, else with what shadow maps begin with.
    r.autoClear = true
    objects.setApart(apart)
    if (whole) {
      // A preview looks at few places of shadow maps: it is drawn sooner than this is found out.
      const hiding = !now.marchesOnGpu && p.samples > 0 && !waiting.length
      if (hiding) {
        objects.setHiding(this.hiding.of(r, objects, camera, width, height))
        r.setRenderTarget(target)
      }
      this.backdrop.group.visible = !this.behind
      r.render(scene, camera)
      this.backdrop.group.visible = true
      objects.setHiding(null)
    } else this.drawMembers(target, part)
    r.autoClear = false
    objects.setApart(false)
    for (const o of waiting) setHides(objects.meshOf(o.id), true)
    return target
  }
  /**
   * Whether to keep the key light apart: a second attachment costs half a picture more where there is no GPU. A final picture must not depend on those
   * before, so there it is decided by the shot: nothing but gas and the backdrop may change from frame to frame. In the View it is enough that nothing
   * else has changed since the last picture.
   */
  private isWorthIt(p: Picture, now: Painted, { still, apart }: Made, { state, alive, shade }: Omit<Drawn, 'shape'>): boolean {
    if (p.final) return this.isStill(p, now)
    const last = this.drawn.get(still)
    return this.drawn.get(apart)?.state === state || (last?.state === state && (last.shade !== shade || last.alive !== alive))
  }
  /** Whether no frame of the shot shows its objects otherwise, but for their shade. */
  private isStill(p: Picture, now: Painted): boolean {
    return this.objects.standStill && !(p.pose.blur && now.gathers) && !moves(shotCamera(now.shot))
  }
  /** The objects of one layer. Those of others throw their shadows on them all the same, and hide what is behind. */
  private drawMembers(target: THREE.WebGLRenderTarget, part: Part): void {
    const { renderer: r, objects, camera } = this
    // Shadow maps are drawn with whatever is first drawn, by all that is to be seen then.
    r.setRenderTarget(this.pixel)
    r.render(objects.scene, camera)
    r.setRenderTarget(target)
    const others = part.alone ? depthOnly(objects, (e) => !part.isShown(e)) : showOnly(objects, part.isShown)
    r.render(objects.scene, camera)
    others()
  }
  /**
   * Applies the shade of gases to a picture that keeps the key light apart, and gives the target that holds colour and depth then: the one that
   * particles are drawn on, or with `again` another, for a pass that reads it first. Any other picture is given back as it is.
   */
  shaded(p: Picture, now: Painted, made: Made, drawn: THREE.WebGLRenderTarget, again: boolean): THREE.WebGLRenderTarget {
    const { apart, target, shaded } = made
    if (drawn !== apart) return drawn
    const { renderer, camera, objects } = this
    const to = again ? shaded : target
    const behind = behindOf(p, now)
    if (this.behind) this.backdrop.draw(renderer, camera, to)
    this.over.run(renderer, {
      ...{ made, state: `${this.drawn.get(apart)?.state}`, left: objects.gasLeft.forShade, camera },
      ...{ behind: this.behind ? null : behind, to },
    })
    return to
  }
  /** The same for kernels that draw over it; null: it changes from picture to picture, and it would take longer to read it back than to draw on it. */
  under(p: Picture, now: Painted, { apart }: Made, drawn: THREE.WebGLRenderTarget): UnderTufts | null {
    const picture = this.drawn.get(drawn)
    if (!this.stays || !picture) return null
    const { renderer, camera, objects } = this
    const read = (k: number) => {
      const list = new Uint16Array(drawn.width * drawn.height * 4)
      renderer.readRenderTargetPixels(drawn, 0, 0, drawn.width, drawn.height, list, undefined, k)
      return list
    }
    return {
      picture,
      read: () => ({ rest: read(0), key: drawn === apart ? read(1) : null }),
      left: drawn === apart ? objects.gasLeft.forKernels : null,
      ...viewOf(camera),
      ...{ near: camera.near, far: camera.far, middle: middleOf(drawn), behind: behindOf(p, now) },
    }
  }
  /** What the depths of a picture depend on. */
  shapeOf = (target: THREE.WebGLRenderTarget): string => `${this.drawn.get(target)?.shape}`
  dispose(): void {
    this.hiding.dispose()
    this.over.dispose()
    this.pixel.dispose()
  }
}
