import * as THREE from 'three'
import { Recent } from './recent'

/** Pixels along a side of a block of which it is known whether it is covered. */
export const BLOCK = 16
/** Pixels along a side of a tile of which it is known how near and far all lies. */
export const TILE = 32
/** Sizes of picture that are kept: a preview and the sharp picture, of two views. */
const KEPT_SIZES = 4
export interface Made {
  target: THREE.WebGLRenderTarget
  /**
   * The objects alone, with smooth edges where samples are asked for: particles smooth their own, and would pay four times for nothing here.
   * It stays as it is while nothing of it changes.
   */
  still: THREE.WebGLRenderTarget
  /** The same with what the key light adds in a second attachment, so that both can be kept while gases move. */
  apart: THREE.WebGLRenderTarget
  /** That with all of the key light: where nothing is shaded a picture is copied of it. */
  unshaded: THREE.WebGLRenderTarget
  /** The least and the farthest depth of its tiles. */
  ranges: THREE.WebGLRenderTarget
  /** The shaded result, for a pass that reads it before particles are drawn. */
  shaded: THREE.WebGLRenderTarget
}
/** For light: halves, smooth between pixels, without depth. */
export const lightTarget = (width: number, height: number, count = 1): THREE.WebGLRenderTarget =>
  new THREE.WebGLRenderTarget(width, height, {
    ...{ count, type: THREE.HalfFloatType, depthBuffer: false, magFilter: THREE.LinearFilter, minFilter: THREE.LinearFilter },
  })
const NEAREST = { magFilter: THREE.NearestFilter, minFilter: THREE.NearestFilter } as const
const withDepth = (width: number, height: number, options: THREE.RenderTargetOptions) =>
  new THREE.WebGLRenderTarget(width, height, {
    type: THREE.HalfFloatType,
    depthTexture: new THREE.DepthTexture(width, height, THREE.UnsignedIntType),
    ...options,
  })
const drop = (t: THREE.WebGLRenderTarget | null) => {
  t?.depthTexture?.dispose()
  t?.dispose()
}

/** The render targets of a stage. */
export class Targets {
  private made = new Recent<Made>(KEPT_SIZES, ({ target, still, apart, unshaded, ranges, shaded }) => {
    drop(target)
    drop(unshaded)
    drop(ranges)
    drop(shaded)
    drop(still)
    drop(apart)
  })
  private layers: THREE.WebGLRenderTarget | null = null

  /** `samples`: per pixel at the edges of objects; `second`: of another view, whose objects stay beside those of the first. */
  of(width: number, height: number, samples: number, second = false): Made {
    const key = `${width}x${height}x${samples}${second ? ' second' : ''}`
    return this.made.of(key, () => ({
      target: withDepth(width, height, { magFilter: THREE.LinearFilter, minFilter: THREE.LinearFilter }),
      still: withDepth(width, height, { samples, ...NEAREST }),
      apart: withDepth(width, height, { samples, ...NEAREST, count: 2 }),
      unshaded: withDepth(width, height, NEAREST),
      ranges: new THREE.WebGLRenderTarget(Math.ceil(width / TILE), Math.ceil(height / TILE), {
        ...{ format: THREE.RGFormat, type: THREE.FloatType, depthBuffer: false, ...NEAREST },
      }),
      shaded: withDepth(width, height, NEAREST),
    }))
  }
  /** One for what is composed before it goes over the picture. */
  layer(width: number, height: number): THREE.WebGLRenderTarget {
    if (this.layers && (this.layers.width !== width || this.layers.height !== height)) {
      this.layers.dispose()
      this.layers = null
    }
    this.layers ??= new THREE.WebGLRenderTarget(width, height, {
      type: THREE.HalfFloatType,
      magFilter: THREE.LinearFilter,
      minFilter: THREE.LinearFilter,
    })
    return this.layers
  }
  /** How much of that layer covers, at the least in each block of BLOCK² pixels. */
  covered(width: number, height: number): THREE.WebGLRenderTarget {
    const [w, h] = [width, height].map((n) => Math.ceil(n / BLOCK))
    if (this.blocks?.width !== w || this.blocks.height !== h) {
      this.blocks?.dispose()
      this.blocks = new THREE.WebGLRenderTarget(w, h, {
        depthBuffer: false,
        format: THREE.RedFormat,
        type: THREE.UnsignedByteType,
        ...NEAREST,
      })
    }
    return this.blocks
  }
  private blocks: THREE.WebGLRenderTarget | null = null
  dispose(): void {
    this.made.dispose()
    drop(this.layers)
    this.layers = null
    this.blocks?.dispose()
    this.blocks = null
  }
}
