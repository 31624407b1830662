import * as THREE from 'three'
import { LOOK_SAMPLES, lookTable } from '../acts'
import { boundsOf, type Mesh } from '../engine'
import { integral, type LookDoc, type ObjectDoc, sampleNumber } from '../shot'
import { texels } from './texels'

const VERTEX = 'varying vec3 ownPlace;\n'
/** Noise between the corners of a grid, smooth, in three octaves: −1 to 1. */
const STRAYS = `
uniform int rampOctaves;
vec4 rampHash(uvec4 h) {
  h = (h ^ (h >> 15)) * 0x2c1b3c6du; h = (h ^ (h >> 12)) * 0x297a2d39u;
  return vec4((h ^ (h >> 15)) >> 8) / 8388608.0 - 1.0;
}
float rampGrid(vec3 p, int phase) {
  vec3 cell = floor(p), f = p - cell; f = f * f * (3.0 - 2.0 * f);
  uvec3 i = uvec3(ivec3(cell));
  // The corners at 0 0, 1 0, 0 1 and 1 1 along x and y.
  uvec4 h = uvec4(i.x, i.x + 1u, i.x, i.x + 1u) * 0x9e3779b1u ^ uvec4(i.y, i.y, i.y + 1u, i.y + 1u) * 0x85ebca77u ^ uint(phase) * 0x27d4eb2fu;
  vec4 at = mix(rampHash(h ^ i.z * 0xc2b2ae3du), rampHash(h ^ (i.z + 1u) * 0xc2b2ae3du), f.z);
  vec2 row = mix(at.xz, at.yw, f.x);
  return mix(row.x, row.y, f.y);
}
float rampShift(vec3 p) {
  float sum = 0.0, part = 1.0;
  int phase = int(floor(rampNoise.z)); float f = rampNoise.z - floor(rampNoise.z); f = f * f * (3.0 - 2.0 * f);
  for (int o = 0; o < rampOctaves; o++) {
    float next = f == 0.0 ? 0.0 : f * rampGrid(p, phase + 1 + o * 57);
    sum += part * ((1.0 - f) * rampGrid(p, phase + o * 57) + next);
    p *= 2.0; part *= 0.5;
  }
  return sum / 1.2;
}
`
const fragmentOf = (strays: boolean) => `
varying vec3 ownPlace;
uniform sampler2D rampColours; uniform vec4 rampWay; uniform vec4 rampNoise;
${strays ? STRAYS : ''}vec3 rampColour() {
  float at = (dot(ownPlace, vec3(rampWay.x, rampWay.y, rampWay.z)) - rampNoise.w) * rampWay.w;
  ${strays ? 'if (rampNoise.x != 0.0) at += rampNoise.x * rampShift(ownPlace * rampNoise.y);' : ''}
  return texture2D(rampColours, vec2(clamp(at, 0.0, 1.0) * (255.0 / 256.0) + 0.5 / 256.0, 0.5)).rgb;
}
`
/** A uniform, so that the loop over them stays one in the program. */
const OCTAVES = 3
/** Colours of a look along an axis of an object, moved on by noise: marble, rust, frost that grows. */
export class SurfaceRamp {
  private look: LookDoc | null = null
  private readonly texture = new THREE.DataTexture(
    new Uint16Array(LOOK_SAMPLES * 4),
    LOOK_SAMPLES,
    1,
    THREE.RGBAFormat,
    THREE.HalfFloatType,
  )
  private readonly uniforms = {
    rampColours: { value: this.texture },
    rampWay: { value: new THREE.Vector4(0, 1, 0, 1) },
    rampNoise: { value: new THREE.Vector4() },
    rampOctaves: { value: OCTAVES },
  }
  /** `kind`: whether noise moves it. */
  constructor(private readonly kind: 'even' | 'strays') {
    this.texture.magFilter = this.texture.minFilter = THREE.LinearFilter
  }
  /** Lets a material know it, before it is drawn for the first time. `own`: where a vertex is in the object, in words of its shader. */
  into(material: THREE.Material, own: string): void {
    const before = material.onBeforeCompile
    material.onBeforeCompile = (shader, renderer) => {
      before.call(material, shader, renderer)
      Object.assign(shader.uniforms, this.uniforms)
      shader.vertexShader = shader.vertexShader
        .replace('void main() {', `${VERTEX}void main() {`)
        .replace('#include <project_vertex>', `ownPlace = ${own};\n\t#include <project_vertex>`)
      shader.fragmentShader = shader.fragmentShader
        .replace('void main() {', `${fragmentOf(this.kind === 'strays')}void main() {`)
        .replace('#include <color_fragment>', '#include <color_fragment>\n\tdiffuseColor.rgb *= rampColour();')
    }
    const key = material.customProgramCacheKey()
    material.customProgramCacheKey = () => `${key}, along a ramp ${this.kind}`
  }
  /** As a material's card has it at a moment; over the box of a mesh as it was made. Returns its values as a text to compare. */
  set(m: ObjectDoc['material'], looks: readonly LookDoc[], mesh: Mesh, t: number): string {
    const look = looks.find((l) => l.id === m.ramp) ?? null
    if (look !== this.look) {
      this.look = look
      const table = look && lookTable(look)
      const data = texels(this.texture, Uint16Array)
      for (let i = 0; i < LOOK_SAMPLES; i++)
        for (let k = 0; k < 4; k++) data[i * 4 + k] = THREE.DataUtils.toHalfFloat(table && k < 3 ? table[i * 5 + k] : 1)
      this.texture.needsUpdate = true
    }
    const axis = 'xyz'.indexOf(m.along ?? 'y')
    const { min, max } = boundsOf(mesh)
    const way = [0, 1, 2].map((k) => (k === axis ? 1 : 0))
    this.uniforms.rampWay.value.set(way[0], way[1], way[2], 1 / Math.max(1e-9, max[axis] - min[axis]))
    const size = Math.max(1e-4, sampleNumber(m.grain ?? 0.2, t))
    this.uniforms.rampNoise.value.set(sampleNumber(m.strays ?? 0, t) / 100, 1 / size, integral(m.renewal ?? 0, t), min[axis])
    return `${look?.id} ${this.uniforms.rampWay.value.toArray()} ${this.uniforms.rampNoise.value.toArray()} ${JSON.stringify(look?.colour)}`
  }
  dispose(): void {
    this.texture.dispose()
  }
}
