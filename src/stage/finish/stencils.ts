import * as THREE from 'three'
import { actOfSort, type FinishView, Reader } from '../../acts'
import { type LayerDoc, type Shot, sampleNumber } from '../../shot'
import type { Masks } from '../masks'
import type { Objects } from '../objects'
import { renderSilhouette } from '../someObjects'
import { lightTarget } from '../targets'
import type { Finishing } from './picture'

/** Pictures of what layers are cut by, white where they are seen. */
export class Stencils {
  private made = new Map<string, { sharp: THREE.WebGLRenderTarget; soft: THREE.WebGLRenderTarget | null }>()
  private white = new THREE.MeshBasicMaterial({ side: THREE.DoubleSide })

  constructor(
    private finishing: Finishing,
    private masks: Masks,
    private objects: Objects,
  ) {}
  /** `known`: pictures of layers that are there. Null: nothing is chosen. */
  of(
    r: THREE.WebGLRenderer,
    {
      shot,
      layer,
      camera,
      view,
      known,
    }: { shot: Shot; layer: LayerDoc; camera: THREE.Camera; view: FinishView; known: ReadonlyMap<string, THREE.Texture> },
  ): THREE.Texture | null {
    const { width, height } = view
    switch (layer.cut) {
      case 'none':
        return null
      case 'outline': {
        const mask = shot.masks.find((m) => m.id === layer.cutMask)
        if (!mask) return null
        const { sharp } = this.target(layer.id, width, height, 0)
        this.masks.draw(r, shot, mask, view.t, sharp)
        return sharp.texture
      }
      case 'object': {
        const object = shot.objects.find((o) => o.id === layer.cutObject)
        if (!object) return null
        const { sharp } = this.target(layer.id, width, height, 4)
        renderSilhouette(r, this.objects, camera, object.id, this.white, sharp)
        return this.soft(r, layer, sharp.texture, view)
      }
      case 'layer': {
        const source = known.get(layer.cutLayer ?? '')
        return source ? this.soft(r, layer, source, view) : null
      }
    }
  }
  private soft(r: THREE.WebGLRenderer, layer: LayerDoc, source: THREE.Texture, view: FinishView): THREE.Texture {
    const radius = sampleNumber(layer.cutFeather, view.t) / 2
    if (radius <= 0) return source
    const kept = this.target(layer.id, view.width, view.height, 4)
    kept.soft ??= lightTarget(view.width, view.height)
    const blur = new Reader({ radius, amount: 100 })
    this.finishing.run(r, source, actOfSort('soften', 'finish').passes?.(blur, view, 0) ?? [], kept.soft)
    return kept.soft.texture
  }
  private target(id: string, width: number, height: number, samples: number) {
    let t = this.made.get(id)
    if (t?.sharp.width !== width || t.sharp.height !== height || t.sharp.samples !== samples) {
      t?.sharp.dispose()
      t?.soft?.dispose()
      const linear = { magFilter: THREE.LinearFilter, minFilter: THREE.LinearFilter } as const
      t = { sharp: new THREE.WebGLRenderTarget(width, height, { samples, ...linear }), soft: null }
      this.made.set(id, t)
    }
    return t
  }
  dispose(): void {
    for (const t of this.made.values()) {
      t.sharp.dispose()
      t.soft?.dispose()
    }
    this.white.dispose()
  }
}
