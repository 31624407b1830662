import type * as THREE from 'three'
import type { FinishView } from '../../acts'
import { type Machine, MemoryRefused, ScreenMaker } from '../../engine'
import type { LayerDoc } from '../../shot'
import { type Finishing, toneOf } from './picture'

/** A picture before its own finishes. */
export interface Unfinished {
  light: THREE.Texture
  /** Its values as kernels left them in their memory, four half floats a pixel from the lower left; null: only the graphics side has them. */
  values: Uint16Array | null
  view: FinishView
  layer: LayerDoc
}
/**
 * Screen values by kernels, for where there is no GPU. A picture with finishes of its own is left to a shader: that makes screen values with the last of
 * them in one pass, and kernels after a pass take as long.
 */
export class Screens {
  private made: { of: Machine; maker: ScreenMaker } | null = null

  /** The top row first; null: it is left to a shader, or there is no memory. */
  bytes(
    r: THREE.WebGLRenderer,
    machine: Machine,
    finishing: Finishing,
    { light, values, view, layer }: Unfinished,
    transparent: boolean,
  ): Uint8Array | null {
    const target = light.renderTarget as THREE.WebGLRenderTarget | null
    if (!target || finishing.changes(layer, view)) return null
    if (this.made?.of !== machine) {
      this.dispose()
      this.made = { of: machine, maker: new ScreenMaker(machine) }
    }
    const { width, height, t } = view
    const read = (into: Uint16Array) => r.readRenderTargetPixels(target, 0, 0, width, height, into)
    try {
      return this.made.maker.bytes(values ?? read, [width, height], { ...toneOf(layer, t), transparent })
    } catch (error) {
      if (!(error instanceof MemoryRefused)) throw error
      return null
    }
  }
  dispose(): void {
    this.made?.maker.dispose()
    this.made = null
  }
}
