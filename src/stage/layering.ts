import * as THREE from 'three'
import { brightestOf, setBlending } from './blending'
import type { DrawContext } from './drawer'
import { Pass } from './passes'
import { COMPOSITE, COVERED, WHITE, WITH_DEPTH } from './shaders'
import type { Targets } from './targets'

/** A pass that copies a picture with its depth, or the depth alone. */
export function depthPass(colour: boolean): Pass {
  const p = new Pass(WITH_DEPTH, { source: null, depth: null })
  p.material.colorWrite = colour
  p.material.depthTest = true
  p.material.depthWrite = true
  p.material.depthFunc = THREE.AlwaysDepth
  return p
}
/** What drawers compose by themselves before it goes over the picture. */
export class Layering {
  private composite = new Pass(COMPOSITE, { source: null, white: 0, brightest: 65504 }, THREE.CustomBlending)
  private white = new Pass(WHITE, {})
  private covered = new Pass(COVERED, { source: null })
  private depthAlone = depthPass(false)

  /** For a picture that is drawn into `target` over objects of that depth. */
  of(
    r: THREE.WebGLRenderer,
    targets: Targets,
    target: THREE.WebGLRenderTarget,
    depth: THREE.DepthTexture,
  ): Pick<DrawContext, 'layer' | 'lookWhatIsCovered' | 'compose'> {
    const { width, height } = target
    return {
      layer: (white) => {
        const layer = targets.layer(width, height)
        r.setRenderTarget(layer)
        r.setClearColor(0, 0)
        r.clear()
        // A clear colour is multiplied by its alpha.
        if (white) this.white.run(r, layer)
        this.depthAlone.set({ depth }).run(r, layer)
        return layer
      },
      lookWhatIsCovered: () => {
        const blocks = targets.covered(width, height)
        this.covered.set({ source: targets.layer(width, height).texture }).run(r, blocks)
        return blocks.texture
      },
      compose: (mode, white) => {
        const source = targets.layer(width, height).texture
        setBlending(this.composite.material, mode)
        // A system that covers inside but adds to the picture is light for the picture.
        if (mode === 'add' || mode === 'screen') this.composite.material.blendSrcAlpha = THREE.ZeroFactor
        this.composite.set({ source, white: white ? 1 : 0, brightest: brightestOf(mode) }).run(r, target)
      },
    }
  }
  dispose(): void {
    for (const pass of [this.composite, this.white, this.covered, this.depthAlone]) pass.dispose()
  }
}
