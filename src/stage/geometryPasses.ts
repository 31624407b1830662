import * as THREE from 'three'
import type { Shot } from '../shot'
import type { Objects } from './objects'
import { matricesOf, renderEach } from './someObjects'

const VERTEX = `
#include <common>
#include <batching_pars_vertex>
uniform mat4 now; uniform mat4 later; uniform mat4 laterModel;
varying vec4 here; varying vec4 next; varying vec3 facing; varying float away;
void main() {
  #include <batching_vertex>
  #include <beginnormal_vertex>
  #include <begin_vertex>
  vec4 own = vec4(transformed, 1.0);
  vec3 n = objectNormal;
  #ifdef USE_BATCHING
  own = batchingMatrix * own;
  n = mat3(batchingMatrix) * n;
  #endif
  #ifdef USE_INSTANCING
  own = instanceMatrix * own;
  n = mat3(instanceMatrix) * n;
  #endif
  vec4 seen = modelViewMatrix * own;
  // Of a scaled object too: by its inverse.
  facing = normalize(transpose(inverse(mat3(modelMatrix))) * n);
  here = now * modelMatrix * own;
  next = later * laterModel * own;
  away = -seen.z;
  gl_Position = projectionMatrix * seen;
}`
const FRAGMENT = `
layout(location = 0) out vec4 surface;
layout(location = 1) out vec4 motion;
uniform vec2 pixels; uniform float id;
varying vec4 here; varying vec4 next; varying vec3 facing; varying float away;
void main() {
  surface = vec4(normalize(facing) * (gl_FrontFacing ? 1.0 : -1.0), away);
  motion = vec4((next.xy / next.w - here.xy / here.w) * 0.5 * pixels, id, 1.0);
}`
const COVERAGE = `
layout(location = 0) out vec4 surface;
uniform float id; uniform float wanted;
void main() { surface = vec4(abs(id - wanted) < 0.5 ? 1.0 : 0.0); }`

/** What the surfaces of objects give beside light, of each pixel by its middle; the top row first. */
export interface Surfaces {
  /** m along the way of the camera; infinity where nothing is. */
  depth: Float32Array
  /** Of the shot's space, xyz each. */
  normal: Float32Array
  /** Pixels to the right and up until the next frame. */
  motion: Float32Array
  /** The place of the object in the list of the shot, from 1 on; 0: nothing. */
  id: Uint32Array
}
export interface Moment {
  t: number
  /** What the camera sees, from the shot to the picture. */
  seen: THREE.Matrix4
}
/** Depth, normals, motion and ids of objects, and how much of each pixel an object covers. Bodies of particles count as objects without a number. */
export class GeometryPasses {
  private material = new THREE.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: FRAGMENT,
    uniforms: {
      now: { value: null },
      later: { value: null },
      laterModel: { value: new THREE.Matrix4() },
      pixels: { value: new THREE.Vector2() },
      id: { value: 0 },
    },
    glslVersion: THREE.GLSL3,
    side: THREE.DoubleSide,
  })
  private coverage = new THREE.ShaderMaterial({
    vertexShader: VERTEX,
    fragmentShader: COVERAGE,
    uniforms: { ...this.material.uniforms, wanted: { value: 0 } },
    glslVersion: THREE.GLSL3,
    side: THREE.DoubleSide,
  })

  /** `place`: puts everything where it is at a time. The camera stands where it sees `now`. */
  surfaces(
    r: THREE.WebGLRenderer,
    objects: Objects,
    {
      shot,
      camera,
      now,
      later,
      place,
      size,
    }: { shot: Shot; camera: THREE.Camera; now: Moment; later: Moment; place: (t: number) => void; size: readonly [number, number] },
  ): Surfaces {
    const [width, height] = size
    place(later.t)
    const next = matricesOf(objects)
    place(now.t)
    const u = this.material.uniforms
    u.now.value = now.seen
    u.later.value = later.seen
    u.pixels.value.set(width, height)
    const target = new THREE.WebGLRenderTarget(width, height, {
      ...{ count: 2, type: THREE.FloatType, minFilter: THREE.NearestFilter, magFilter: THREE.NearestFilter },
    })
    try {
      this.render(r, objects, shot, camera, this.material, target, next)
      const n = width * height
      const [surface, motion] = [0, 1].map((k) => {
        const data = new Float32Array(n * 4)
        r.readRenderTargetPixels(target, 0, 0, width, height, data, undefined, k)
        return data
      })
      const out: Surfaces = {
        depth: new Float32Array(n),
        normal: new Float32Array(n * 3),
        motion: new Float32Array(n * 2),
        id: new Uint32Array(n),
      }
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++) {
          const from = ((height - 1 - y) * width + x) * 4
          const to = y * width + x
          const there = motion[from + 3] > 0
          out.depth[to] = there ? surface[from + 3] : Number.POSITIVE_INFINITY
          for (let c = 0; c < 3; c++) out.normal[to * 3 + c] = surface[from + c]
          for (let c = 0; c < 2; c++) out.motion[to * 2 + c] = motion[from + c]
          out.id[to] = there ? Math.round(motion[from + 2]) : 0
        }
      return out
    } finally {
      target.dispose()
    }
  }
  /** How much of each pixel an object covers, 0 to 1, the top row first; nearer objects hide it. */
  covered(
    r: THREE.WebGLRenderer,
    objects: Objects,
    shot: Shot,
    camera: THREE.Camera,
    id: string,
    [width, height]: readonly [number, number],
  ): Float32Array {
    const target = new THREE.WebGLRenderTarget(width, height, { samples: 4 })
    try {
      this.coverage.uniforms.wanted.value = shot.objects.findIndex((o) => o.id === id) + 1
      this.render(r, objects, shot, camera, this.coverage, target, matricesOf(objects))
      const data = new Uint8Array(width * height * 4)
      r.readRenderTargetPixels(target, 0, 0, width, height, data)
      return Float32Array.from({ length: width * height }, (_, i) => {
        const y = Math.floor(i / width)
        return data[((height - 1 - y) * width + (i % width)) * 4] / 255
      })
    } finally {
      target.dispose()
    }
  }
  private render(
    r: THREE.WebGLRenderer,
    objects: Objects,
    shot: Shot,
    camera: THREE.Camera,
    material: THREE.ShaderMaterial,
    target: THREE.WebGLRenderTarget,
    next: ReadonlyMap<THREE.Object3D, THREE.Matrix4>,
  ): void {
    const number = new Map(shot.objects.map((o, i) => [o.id, i + 1]))
    r.setRenderTarget(target)
    r.setClearColor(0, 0)
    r.clear()
    renderEach(r, objects, camera, material, (mesh) => {
      material.uniforms.id.value = number.get(mesh.name) ?? 0
      material.uniforms.laterModel.value.copy(next.get(mesh) ?? mesh.matrixWorld)
      material.uniformsNeedUpdate = true
    })
  }
  dispose(): void {
    this.material.dispose()
    this.coverage.dispose()
  }
}
