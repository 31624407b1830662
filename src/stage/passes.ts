import * as THREE from 'three'
import { FULLSCREEN_VERTEX } from './shaders'

const COPY = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D source;
void main() { colour = texture(source, uv); }`
/** One triangle over the whole target, for shaders that have FULLSCREEN_VERTEX. */
export const fullscreen = new THREE.BufferGeometry().setAttribute(
  'position',
  new THREE.BufferAttribute(new Float32Array([-1, -1, 0, 3, -1, 0, -1, 3, 0]), 3),
)
const camera = new THREE.Camera()

export class Pass {
  readonly material: THREE.RawShaderMaterial
  private scene = new THREE.Scene()

  /** `over`: what is drawn in place of the whole target. */
  constructor(
    fragment: string,
    uniforms: Record<string, unknown>,
    blending: THREE.Blending = THREE.NoBlending,
    over: { vertex: string; geometry: THREE.BufferGeometry } = { vertex: FULLSCREEN_VERTEX, geometry: fullscreen },
  ) {
    this.material = new THREE.RawShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: over.vertex,
      fragmentShader: fragment,
      uniforms: Object.fromEntries(Object.entries(uniforms).map(([k, value]) => [k, { value }])),
      depthTest: false,
      depthWrite: false,
      blending,
    })
    const mesh = new THREE.Mesh(over.geometry, this.material)
    mesh.frustumCulled = false
    this.scene.add(mesh)
  }
  set(values: Record<string, unknown>): this {
    for (const [k, v] of Object.entries(values)) this.material.uniforms[k].value = v
    return this
  }
  run(renderer: THREE.WebGLRenderer, target: THREE.WebGLRenderTarget | null): void {
    renderer.setRenderTarget(target)
    renderer.render(this.scene, camera)
  }
  dispose(): void {
    this.material.dispose()
  }
}
/** Puts a picture, `source`, as it is into a target of any size. */
export const copyPass = (blending?: THREE.Blending): Pass => new Pass(COPY, { source: null }, blending)
