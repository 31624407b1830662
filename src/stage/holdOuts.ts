import * as THREE from 'three'
import { actOfSort, type FinishView, Reader } from '../acts'
import { type ObjectDoc, type Shot, sampleNumber, sampleStep } from '../shot'
import { Finisher } from './finish/finisher'
import type { Objects } from './objects'
import { copyPass, Pass } from './passes'
import { Recent } from './recent'
import { renderSilhouette } from './someObjects'
import { lightTarget } from './targets'

const PUT = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D behind; uniform sampler2D held; uniform sampler2D cover;
void main() { colour = mix(texture(behind, uv), texture(held, uv), clamp(2.0 * texture(cover, uv).r - 1.0, 0.0, 1.0)); }`

const cutsOut = (o: ObjectDoc): boolean => !o.muted && !!o.material.cutsOut
const softness = (o: ObjectDoc, t: number): number => (sampleStep(o.seen, t) ? sampleNumber(o.material.cutSoft ?? 0, t) : 0)

/** Whether the mesh of one hides what is behind it; its shadows stay. */
export function setHides(mesh: THREE.Mesh | null, hides: boolean): void {
  if (mesh) (mesh.material as THREE.Material).depthWrite = hides
}
interface Made {
  sharp: THREE.WebGLRenderTarget
  soft: THREE.WebGLRenderTarget
  copy: THREE.WebGLRenderTarget
}
/**
 * Objects that are not seen and hide what is behind them, with a soft edge. The picture is drawn without one and with it, and goes over from the
 * one to the other as far as its softened outline covers: not at all at its edge, where that covers half, for beyond it nothing is hidden.
 */
export class HoldOuts {
  private white = new THREE.MeshBasicMaterial({ side: THREE.DoubleSide })
  private blur = new Finisher()
  private put = new Pass(PUT, { behind: null, held: null, cover: null })
  private copy = copyPass()
  private made = new Recent<Made>(4, ({ sharp, soft, copy }) => {
    for (const t of [sharp, soft, copy]) t.dispose()
  })

  /** Those with a soft edge, in their order. */
  of(shot: Shot, t: number): ObjectDoc[] {
    return shot.objects.filter((o) => cutsOut(o) && softness(o, t) > 0)
  }
  /** Puts a picture with one in the place of that without it. */
  over(
    r: THREE.WebGLRenderer,
    { objects, camera, view }: { objects: Objects; camera: THREE.Camera; view: FinishView },
    o: ObjectDoc,
    held: THREE.Texture,
    target: THREE.WebGLRenderTarget,
  ): void {
    const { width, height } = view
    const m = this.made.of(`${width}x${height}`, () => ({
      sharp: new THREE.WebGLRenderTarget(width, height, { samples: 4, magFilter: THREE.LinearFilter, minFilter: THREE.LinearFilter }),
      soft: lightTarget(width, height),
      copy: lightTarget(width, height),
    }))
    renderSilhouette(r, objects, camera, o.id, this.white, m.sharp)
    const blur = new Reader({ radius: softness(o, view.t) / 2, amount: 100 })
    this.blur.begin(m.sharp.texture, width, height, true)
    this.blur.add(r, actOfSort('soften', 'finish').passes?.(blur, view, 0) ?? [])
    this.blur.end(r, null, m.soft)
    this.copy.set({ source: target.texture }).run(r, m.copy)
    this.put.set({ behind: m.copy.texture, held, cover: m.soft.texture }).run(r, target)
  }
  dispose(): void {
    this.made.dispose()
    this.white.dispose()
    this.blur.dispose()
    this.put.dispose()
    this.copy.dispose()
  }
}
