import * as THREE from 'three'
import type { MarchLeft, UnderTufts } from '../engine'
import { HIDDEN } from './hiddenChunk'
import { KEY_LIGHT, KEY_OUT, KEY_SPOT, KEY_SUN, keyApart } from './keyLight'
import { SHARE_UNIFORMS, shareUniforms, withShares } from './lightShares'
import { askSoftly, softShadows } from './softShadow'

/** The shadow of a gas for the light that throws shadows: what of its light is left at places that it sees. */
export interface GasShade {
  front: MarchLeft
  /** From the shot to the light's picture (x and y, −1 to 1 before they are divided by the third) and the depth in it: four rows of four. */
  rows: readonly number[]
}
/** For shaders: what gases leave of the light that throws shadows, at a place of the shot. */
export const GAS_LEFT = `
uniform highp sampler3D gasFront; uniform vec3 gasDepths; uniform vec4 gasWithin; uniform mat4 gasRows;
float gasLeft(vec3 place) {
  vec4 p = gasRows * vec4(place, 1.0);
  float s = (p.w - gasDepths.x) * gasDepths.y;
  vec2 at = p.xy / p.z * 0.5 + 0.5;
  // Without a GPU a branch costs what it skips, but a loop ends.
  int looks = gasDepths.z > 0.5 && s > 0.0 && p.z > 0.0 && all(greaterThan(at, gasWithin.xy)) && all(lessThan(at, gasWithin.zw)) ? 1 : 0;
  float left = 1.0;
  for (int i = 0; i < looks; i++) left = textureLod(gasFront, vec3(at, (s + 0.5) / gasDepths.z), 0.0).r;
  return left;
}
`
const UNIFORMS = `
${SHARE_UNIFORMS}varying vec3 gasPlace;
uniform float lightsAll; uniform int gasKind;
${GAS_LEFT}${KEY_LIGHT}`
/** Where three.js dims lights by their own shadow: the gas shades the first that has one, which is the first of its kind. */
const DIMS = /(\b(?:spot|directional)LightShadow = \w+\[ i \];\s*)directLight\.color \*= /g
const lights = withShares(
  askSoftly(
    keyApart(
      THREE.ShaderChunk.lights_fragment_begin.replace(
        DIMS,
        (_, before: string) =>
          `${before}if (UNROLLED_LOOP_INDEX == 0 && gasKind == ${before.startsWith('spot') ? KEY_SPOT : KEY_SUN} && !keysApart) directLight.color *= gasLeft(gasPlace);\n\t\tdirectLight.color *= `,
      ),
    ),
  ),
)
if (lights.split('gasLeft').length !== 3) throw new Error('three.js dims lights in another way now: look at stage/gasShadow.ts')

/**
 * What is mirrored of the sky; what it lights evenly is the hemisphere's, but for what rough metal mirrors more than once. A picture of light
 * all around lights matt things too, from where each of its pixels is.
 */
const mirrors = THREE.ShaderChunk.lights_fragment_maps.replace(
  'iblIrradiance += getIBLIrradiance( geometryNormal );',
  'iblIrradiance += getIBLIrradiance( geometryNormal ) * mix(metalnessFactor, 1.0, lightsAll);',
)

/** Sides of what a disc is taken for: a polygon of its area. */
const SIDES = 16
/** So much farther than the disc its corners lie: areas are the same. */
const FARTHER = Math.sqrt((2 * Math.PI) / (SIDES * Math.sin((2 * Math.PI) / SIDES)))
const FOUR = /vec3 coords\[ 4 \];[\s\S]*?float result = LTC_ClippedSphereFormFactor\( vectorFormFactor \);/
/**
 * Of an area that is wholly above the horizon the light is the part of its vector along the normal (Lambert 1760); three.js takes that of a ball in its
 * place, which is up to an eighth off where it stands askew (measured), and is needed only where the horizon cuts it. A disc, or an ellipse, is the
 * polygon of as much area; its corners go the way round that those of the rectangle do.
 */
const areas = `bool areaRounded;\n${THREE.ShaderChunk.lights_physical_pars_fragment.replace(
  FOUR,
  `vec3 vectorFormFactor = vec3(0.0), last;
	float least = 1.0;
	vec3 middle = 0.5 * (rectCoords[0] + rectCoords[2]) - P;
	vec3 halfU = 0.5 * (rectCoords[0] - rectCoords[1]), halfV = 0.5 * (rectCoords[3] - rectCoords[0]);
	int sides = areaRounded ? ${SIDES} : 4;
	for (int k = 0; k <= sides; k++) {
		float a = -6.283185307 * (float(k) + (areaRounded ? 0.0 : 0.5)) / float(sides), far = areaRounded ? ${FARTHER.toFixed(8)} : 1.41421356;
		vec3 at = normalize(mat * (middle + far * (halfU * cos(a) + halfV * sin(a))));
		if (k > 0) vectorFormFactor += LTC_EdgeVectorFormFactor(last, at);
		least = min(least, at.z);
		last = at;
	}
	float result = least >= 0.0 ? max(vectorFormFactor.z, 0.0) : LTC_ClippedSphereFormFactor(vectorFormFactor);`,
)}`
if (!areas.includes('int sides')) throw new Error('three.js adds up area lights in another way now: look at stage/gasShadow.ts')

/** A texture of what is left of light at depths; without any other number, which a graphics side without a GPU would work out too. */
class Left {
  texture = halves(1, 1, 1)
  readonly depths = new THREE.Vector3()
  /** The part of it in which anything is taken, from 0 to 1: low and high of both ways. */
  readonly within = new THREE.Vector4()

  set(f: MarchLeft | null): void {
    if (!f) {
      this.depths.set(0, 0, 0)
      return
    }
    const { image } = this.texture
    if (image.width !== f.width || image.height !== f.height || image.depth !== f.depths) {
      this.texture.dispose()
      this.texture = halves(f.width, f.height, f.depths)
    }
    // As it is: whoever made it keeps it as it is.
    this.texture.image.data = f.left
    this.texture.needsUpdate = true
    this.depths.set(f.from, 1 / f.step, f.depths)
    const { low, high } = takenWithin(f.left.subarray(f.width * f.height * (f.depths - 1)), f.width)
    this.within.set(low[0] / f.width, low[1] / f.height, high[0] / f.width, high[1] / f.height)
  }
  dispose(): void {
    this.texture.dispose()
  }
}
/** All, as a half. */
const WHOLE = 0x3c00
/** Where less than all is left, in a picture so wide, and a texel around: edges of texels. Behind the last depth no more is taken. */
function takenWithin(left: Uint16Array, width: number): { low: [number, number]; high: [number, number] } {
  const low: [number, number] = [width, left.length]
  const high: [number, number] = [0, 0]
  for (let i = 0; i < left.length; i++) {
    if (left[i] >= WHOLE) continue
    const x = i % width
    const y = (i - x) / width
    if (x < low[0]) low[0] = x
    if (x > high[0]) high[0] = x
    if (y < low[1]) low[1] = y
    high[1] = y
  }
  return { low: [low[0] - 1, low[1] - 1], high: [high[0] + 2, high[1] + 2] }
}
function halves(width: number, height: number, depth: number): THREE.Data3DTexture {
  const t = new THREE.Data3DTexture(new Uint16Array(width * height * depth), width, height, depth)
  t.format = THREE.RedFormat
  t.type = THREE.HalfFloatType
  t.minFilter = t.magFilter = THREE.LinearFilter
  t.needsUpdate = true
  return t
}
/** What every material of the objects shares of it, and of shadows as such. */
export class GasShadow {
  private left = new Left()
  private shade: GasShade | null = null
  private uniforms = {
    gasFront: { value: this.left.texture },
    gasDepths: { value: this.left.depths },
    gasWithin: { value: this.left.within },
    gasRows: { value: new THREE.Matrix4() },
    smoothShadows: { value: true },
    hiding: { value: null as THREE.Texture | null },
    hides: { value: 0 },
    lightsAll: { value: 0 },
    gasKind: { value: 0 },
    keysApart: { value: false },
    areaShade: { value: new Int32Array(16).fill(-1) },
    areaRound: { value: new Int32Array(16) },
  }

  /** Lets a material know it; before it is drawn for the first time. `more`: what its own shader changes behind that. */
  into(material: THREE.Material, more: (fragment: string) => string = (f) => f): void {
    const shares = shareUniforms()
    material.userData.shares = shares
    material.onBeforeCompile = (shader) => {
      Object.assign(shader.uniforms, this.uniforms, shares)
      shader.vertexShader = shader.vertexShader
        .replace('void main() {', 'varying vec3 gasPlace;\nvoid main() {')
        .replace('#include <project_vertex>', '#include <project_vertex>\n\tgasPlace = (modelMatrix * vec4(transformed, 1.0)).xyz;')
      shader.fragmentShader = shader.fragmentShader
        .replace('void main() {', `${UNIFORMS}${HIDDEN}void main() {\n\thiddenHere = isHidden();`)
        .replace('#include <shadowmap_pars_fragment>', softShadows())
        .replace('#include <lights_fragment_begin>', lights)
        .replace('#include <lights_fragment_maps>', mirrors)
        .replace('#include <lights_physical_pars_fragment>', areas)
        .replace('#include <opaque_fragment>', `${KEY_OUT}#include <opaque_fragment>`)
      shader.fragmentShader = more(shader.fragmentShader)
    }
    material.customProgramCacheKey = () => 'in the shadow of gas'
    material.userData.keysApart = true
  }
  /** Whether edges of shadows are without grain, which costs. */
  setSmooth(smooth: boolean): void {
    this.uniforms.smoothShadows.value = smooth
  }
  /** What solid objects hide, for the next picture of them; null: nothing is known of it. */
  setHiding(farthest: THREE.Texture | null): void {
    this.uniforms.hiding.value = farthest
    this.uniforms.hides.value = farthest ? 1 : 0
  }
  /** Whether what is mirrored is also what lights. */
  setAround(around: boolean): void {
    this.uniforms.lightsAll.value = around ? 1 : 0
  }
  /** Whether the light that throws shadows goes into a picture of its own, whole, in the next one of the objects. */
  setApart(apart: boolean): void {
    this.uniforms.keysApart.value = apart
  }
  /** Whether gases shade a light on objects at all. */
  get shades(): boolean {
    return this.uniforms.gasKind.value > 0 && this.left.depths.z > 0
  }
  /** For shaders that have GAS_LEFT. */
  get forShade(): { gasFront: THREE.Texture; gasDepths: THREE.Vector3; gasWithin: THREE.Vector4; gasRows: THREE.Matrix4 } {
    const { gasFront, gasDepths, gasWithin, gasRows } = this.uniforms
    return { gasFront: gasFront.value, gasDepths: gasDepths.value, gasWithin: gasWithin.value, gasRows: gasRows.value }
  }
  /** For kernels; null: all is left. */
  get forKernels(): UnderTufts['left'] {
    const { shade, left } = this
    return this.shades && shade ? { ...shade, within: left.within.toArray() } : null
  }
  /** The kind of the first light that throws shadows. */
  setKey(kind: 'spot' | 'sun' | null): void {
    this.uniforms.gasKind.value = kind === 'spot' ? KEY_SPOT : kind === 'sun' ? KEY_SUN : 0
  }
  /** Of each area, which of the points that throw shadows stands in its middle, −1: none, and whether it is a disc. */
  setAreas(of: readonly { shade: number; round: boolean }[]): void {
    of.slice(0, 16).forEach(({ shade, round }, i) => {
      this.uniforms.areaShade.value[i] = shade
      this.uniforms.areaRound.value[i] = round ? 1 : 0
    })
  }
  set(shade: GasShade | null): void {
    this.shade = shade
    this.left.set(shade?.front ?? null)
    this.uniforms.gasFront.value = this.left.texture
    if (shade) this.uniforms.gasRows.value.set(...(shade.rows as Parameters<THREE.Matrix4['set']>))
  }
  dispose(): void {
    this.left.dispose()
  }
}
