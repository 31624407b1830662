import * as THREE from 'three'
import { type ObjectDoc, sampleNumber } from '../shot'

/**
 * How steep smooth noise between the corners of a grid is, along each axis; its heights are −1 to 1. Heights are added up in octaves, each half as
 * high and half as wide as the one before, turned against it, and left out where it would be finer than pixels.
 */
const NOISE = `
uniform vec3 bumps;
vec4 bumpHash(uvec4 h) {
  h = (h ^ (h >> 15)) * 0x2c1b3c6du; h = (h ^ (h >> 12)) * 0x297a2d39u;
  return vec4((h ^ (h >> 15)) >> 8) / 8388608.0 - 1.0;
}
vec3 bumpSlope(vec3 p) {
  vec3 cell = floor(p), f = p - cell;
  uvec3 i = uvec3(ivec3(cell));
  vec3 w = f * f * f * (f * (f * 6.0 - 15.0) + 10.0), dw = 30.0 * f * f * (f * (f - 2.0) + 1.0);
  // The corners at 0 0, 1 0, 0 1 and 1 1 along x and y.
  uvec4 h = uvec4(i.x, i.x + 1u, i.x, i.x + 1u) * 0x9e3779b1u ^ uvec4(i.y, i.y, i.y + 1u, i.y + 1u) * 0x85ebca77u;
  vec4 near = bumpHash(h ^ i.z * 0xc2b2ae3du), far = bumpHash(h ^ (i.z + 1u) * 0xc2b2ae3du);
  vec4 at = mix(near, far, w.z), deep = far - near;
  vec2 row = mix(at.xz, at.yw, w.x), wide = at.yw - at.xz, end = mix(deep.xz, deep.yw, w.x);
  return dw * vec3(mix(wide.x, wide.y, w.y), row.y - row.x, mix(end.x, end.y, w.y));
}
`
/** Perturbs a normal by heights that are not there (Mikkelsen 2010), by slopes in the object's own space. */
const BEND = `
vec3 bumpNormal(vec3 n, vec3 place, float way) {
  vec3 across = dFdx(bumpPlace), up = dFdy(bumpPlace);
  float pixel = max(length(across), length(up));
  const mat3 turn = mat3(0.0, 0.8, 0.6, -0.8, 0.36, -0.48, -0.6, -0.48, 0.64);
  mat3 back = mat3(1.0);
  vec3 p = bumpPlace / bumps.y, slope = vec3(0.0);
  float width = bumps.y;
  for (int o = 0; o < (hiddenHere ? 0 : int(bumps.z)); o++) {
    float seen = smoothstep(1.0, 3.0, width / pixel);
    if (seen == 0.0) break;
    slope += seen * (back * bumpSlope(p));
    p = 2.0 * (turn * p); back = back * transpose(turn); width *= 0.5;
  }
  slope *= bumps.x / bumps.y;
  vec3 sx = dFdx(place), sy = dFdy(place);
  vec3 rx = cross(sy, n), ry = cross(n, sx);
  float area = dot(sx, rx) * way;
  vec3 gradient = sign(area) * (dot(slope, across) * rx + dot(slope, up) * ry);
  return normalize(abs(area) * n - gradient);
}
`
/** A uniform, so that the loop over them stays one in the program. */
const OCTAVES = 4
/** A surface that looks uneven, as stone, bark, plaster and water do: it is shaded so, and its faces stay where they are. */
export class SurfaceBumps {
  private readonly uniforms = { bumps: { value: new THREE.Vector3(0, 1, OCTAVES) } }
  /** Lets a material know it, before it is drawn for the first time. `own`: where a vertex is in the object, in words of its shader. */
  into(material: THREE.Material, own: string): void {
    const before = material.onBeforeCompile
    material.onBeforeCompile = (shader, renderer) => {
      before.call(material, shader, renderer)
      Object.assign(shader.uniforms, this.uniforms)
      shader.vertexShader = shader.vertexShader
        .replace('void main() {', 'varying vec3 bumpPlace;\nvoid main() {')
        .replace('#include <project_vertex>', `bumpPlace = ${own};\n\t#include <project_vertex>`)
      shader.fragmentShader = shader.fragmentShader
        .replace('void main() {', `varying vec3 bumpPlace;${NOISE}${BEND}void main() {`)
        .replace(
          '#include <normal_fragment_maps>',
          '#include <normal_fragment_maps>\n\tnormal = bumpNormal(normal, - vViewPosition, faceDirection);',
        )
    }
    const key = material.customProgramCacheKey()
    material.customProgramCacheKey = () => `${key}, with bumps`
  }
  /** As a material's card has it at a moment. Returns its values as a text to compare. */
  set(m: ObjectDoc['material'], t: number): string {
    this.uniforms.bumps.value.set(sampleNumber(m.bumps ?? 0, t), Math.max(1e-4, sampleNumber(m.bumpSize ?? BUMP_SIZE, t)), OCTAVES)
    return `${this.uniforms.bumps.value.toArray()}`
  }
}
/** m, where a card says nothing of it. */
const BUMP_SIZE = 0.1
