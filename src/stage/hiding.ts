import * as THREE from 'three'
import type { Objects } from './objects'
import { Pass } from './passes'

/** Of each two by two pixels, which are shaded together, and those around them the farthest depth. */
const FARTHEST = `
precision highp float;
out vec4 colour;
uniform highp sampler2D depth;
void main() {
  ivec2 first = ivec2(gl_FragCoord.xy) * 2 - 1, last = textureSize(depth, 0) - 1;
  float farthest = 0.0;
  for (int y = 0; y < 4; y++) for (int x = 0; x < 4; x++) farthest = max(farthest, texelFetch(depth, clamp(first + ivec2(x, y), ivec2(0), last), 0).r);
  colour = vec4(farthest);
}`
/** Triangles that are drawn for it at the most: each costs about 1.5 µs there. */
const MOST_TRIANGLES = 60_000
interface Made {
  depth: THREE.WebGLRenderTarget
  farthest: THREE.WebGLRenderTarget
}
/**
 * What solid objects hide of each other in a picture. Software GL tests depth only after a pixel is shaded, and its branches cost what they skip; but
 * loops end early: where a pixel is hidden those over shadow maps and bumps, which cost most, are not gone through.
 */
export class Hiding {
  private made: Made | null = null
  private pass = new Pass(FARTHEST, { depth: null })
  // Front faces alone: of what is open the back may not be drawn.
  private material = new THREE.MeshBasicMaterial()

  /** The farthest depth around each two by two pixels, by what is solid; null where that is too much work, or where something is seen through, which draws all once more, in another size. */
  of(r: THREE.WebGLRenderer, objects: Objects, camera: THREE.Camera, width: number, height: number): THREE.Texture | null {
    const shown = objects.scene.children.filter((o) => o.visible && !(o as THREE.Light).isLight)
    const meshes = shown.filter((o): o is THREE.Mesh => (o as THREE.Mesh).isMesh)
    if (meshes.some((m) => [m.material].flat().some((x) => ((x as THREE.MeshPhysicalMaterial).transmission ?? 0) > 0))) return null
    const solid = new Set<THREE.Object3D>(meshes.filter((m) => [m.material].flat().every(isSolid)))
    const triangles = [...solid].reduce((sum, m) => sum + trianglesOf((m as THREE.Mesh).geometry), 0)
    if (triangles > MOST_TRIANGLES) return null
    const others = shown.filter((o) => !solid.has(o))
    const { depth, farthest } = this.targets(width, height)
    for (const o of others) o.visible = false
    const { autoUpdate } = r.shadowMap
    const { autoClear } = r
    r.shadowMap.autoUpdate = false
    r.autoClear = false
    r.setRenderTarget(depth)
    r.clear()
    objects.renderPlain(r, camera, this.material)
    r.shadowMap.autoUpdate = autoUpdate
    r.autoClear = autoClear
    for (const o of others) o.visible = true
    this.pass.set({ depth: depth.depthTexture }).run(r, farthest)
    return farthest.texture
  }
  private targets(width: number, height: number): Made {
    if (this.made?.depth.width === width && this.made.depth.height === height) return this.made
    this.drop()
    this.made = {
      depth: new THREE.WebGLRenderTarget(width, height, { depthTexture: new THREE.DepthTexture(width, height, THREE.UnsignedIntType) }),
      farthest: new THREE.WebGLRenderTarget(Math.ceil(width / 2), Math.ceil(height / 2), {
        ...{ format: THREE.RedFormat, type: THREE.FloatType, depthBuffer: false },
        ...{ minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter },
      }),
    }
    return this.made
  }
  private drop(): void {
    this.made?.depth.depthTexture?.dispose()
    this.made?.depth.dispose()
    this.made?.farthest.dispose()
    this.made = null
  }
  dispose(): void {
    this.drop()
    this.pass.dispose()
    this.material.dispose()
  }
}
const trianglesOf = (g: THREE.BufferGeometry): number => (g.index?.count ?? g.getAttribute('position')?.count ?? 0) / 3
/** Whether nothing is seen through it. */
const isSolid = (m: THREE.Material): boolean =>
  m.visible &&
  !m.transparent &&
  m.opacity >= 1 &&
  m.alphaTest === 0 &&
  !m.alphaHash &&
  m.depthWrite &&
  m.depthTest &&
  m.colorWrite &&
  !('wireframe' in m && m.wireframe)
