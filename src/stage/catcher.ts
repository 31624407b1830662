import * as THREE from 'three'
import { ambientOf, lightShare, lightsAt, MOST_SHADOWS, shadowLights, shiningLights } from '../acts'
import type { Flame, MarchLight } from '../engine'
import { type LightDoc, type ObjectDoc, type Shot, sampleColour, sampleNumber, sampleVec3, type Vec3 } from '../shot'
import type { GasShadow } from './gasShadow'
import { KEY_SPOT, KEY_SUN } from './keyLight'

/** Lights of effects that reach what only catches; the brightest where there are more. */
const MOST = 16
/** Lights of the shot that are weighed against the one that throws shadows. */
const MOST_LAMPS = 8
const SHADER = `
uniform vec3 effectAt[${MOST}], effectPower[${MOST}], caught; uniform int effects;
uniform vec4 lampAt[${MOST_LAMPS}], lampAim[${MOST_LAMPS}]; uniform vec3 lampPower[${MOST_LAMPS}]; uniform float lampTo[${MOST_LAMPS}];
uniform int lamps, ofSpot[${MOST_SHADOWS}], ofSun[${MOST_SHADOWS}], ofPoint[${MOST_SHADOWS}]; uniform vec3 above, below;
vec3 faces() {
  vec3 n = normalize(cross(dFdx(gasPlace), dFdy(gasPlace)));
  return dot(n, cameraPosition - gasPlace) < 0.0 ? -n : n;
}
vec3 effectLight(vec3 n) {
  vec3 sum = vec3(0.0);
  for (int i = 0; i < ${MOST}; i++) {
    if (i >= effects) break;
    vec3 to = effectAt[i] - gasPlace;
    float d2 = max(dot(to, to), 1e-4);
    sum += effectPower[i] * max(dot(n, to), 0.0) / (d2 * sqrt(d2));
  }
  return sum * caught * 0.31830989;
}
// How much of the light on it is taken by shadows: of each lamp that throws one, as much as does not come through.
float taken(vec3 n) {
  vec3 luma = vec3(0.2126, 0.7152, 0.0722);
  float of[${MOST_LAMPS}], all = 3.14159265 * dot(mix(below, above, 0.5 + 0.5 * n.y), luma);
  for (int i = 0; i < ${MOST_LAMPS}; i++) {
    of[i] = 0.0;
    if (i >= lamps) continue;
    vec3 to = lampAt[i].xyz - lampAt[i].w * gasPlace;
    float d2 = lampAt[i].w > 0.5 ? max(dot(to, to), 1e-4) : 1.0;
    vec3 way = normalize(to);
    float cone = lampTo[i] > 1.5 ? 1.0 : smoothstep(lampAim[i].w, lampTo[i], dot(-way, lampAim[i].xyz));
    of[i] = dot(lampPower[i], luma) * max(dot(n, way), 0.0) * cone / d2;
    all += of[i];
  }
  float lost = 0.0;
  #ifdef USE_SHADOWMAP
  #if NUM_SPOT_LIGHT_SHADOWS > 0
  SpotLight spotLight;
  SpotLightShadow spotShade;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_SPOT_LIGHT_SHADOWS; i ++ ) {
		spotLight = spotLights[ i ];
		spotShade = spotLightShadows[ i ];
		if (ofSpot[ i ] >= 0) lost += of[ofSpot[ i ]] * (1.0 - (UNROLLED_LOOP_INDEX == 0 && gasKind == ${KEY_SPOT} ? gasLeft(gasPlace) : 1.0)
			* SHADOW_OF( spotShadowMap[ i ], spotShade.shadowMapSize, spotShade.shadowIntensity, spotShade.shadowBias, spotShade.shadowRadius, vSpotLightCoord[ i ], tallOf(spotLight.coneCos) ));
	}
	#pragma unroll_loop_end
  #endif
  #if NUM_POINT_LIGHT_SHADOWS > 0
  PointLightShadow pointShade;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_POINT_LIGHT_SHADOWS; i ++ ) {
		pointShade = pointLightShadows[ i ];
		if (ofPoint[ i ] >= 0) lost += of[ofPoint[ i ]] * (1.0 - getPointShadow( pointShadowMap[ i ], pointShade.shadowMapSize, pointShade.shadowIntensity, pointShade.shadowBias, pointShade.shadowRadius, vPointShadowCoord[ i ], pointShade.shadowCameraNear, pointShade.shadowCameraFar ));
	}
	#pragma unroll_loop_end
  #endif
  #if NUM_DIR_LIGHT_SHADOWS > 0
  DirectionalLightShadow sunShade;
	#pragma unroll_loop_start
	for ( int i = 0; i < NUM_DIR_LIGHT_SHADOWS; i ++ ) {
		sunShade = directionalLightShadows[ i ];
		if (ofSun[ i ] >= 0) lost += of[ofSun[ i ]] * (1.0 - (UNROLLED_LOOP_INDEX == 0 && gasKind == ${KEY_SUN} ? gasLeft(gasPlace) : 1.0)
			* SHADOW_OF( directionalShadowMap[ i ], sunShade.shadowMapSize, sunShade.shadowIntensity, sunShade.shadowBias, sunShade.shadowRadius, vDirectionalShadowCoord[ i ], 0.0 ));
	}
	#pragma unroll_loop_end
  #endif
  #endif
  return lost / max(all, 1e-6);
}
void main() {`

/**
 * What only catches: it is not seen, darkens what is behind by the shadow on it, and gives back the light of fire and of what follows particles,
 * as a matt surface of its colour (Lambert). Drawn over what is behind, premultiplied: black as far as it is in shadow, and the light added.
 */
export class Catcher {
  readonly material = new THREE.ShadowMaterial()
  /** What is nearest of all that catches is what counts: its depth comes before any of its light. */
  private readonly front = new THREE.MeshBasicMaterial({ colorWrite: false, side: THREE.DoubleSide })
  private uniforms = {
    effectAt: { value: Array.from({ length: MOST }, () => new THREE.Vector3()) },
    effectPower: { value: Array.from({ length: MOST }, () => new THREE.Vector3()) },
    effects: { value: 0 },
    caught: { value: new THREE.Color() },
    ...{ lampAt: { value: fours() }, lampAim: { value: fours() }, lampTo: { value: new Float32Array(MOST_LAMPS) } },
    lampPower: { value: Array.from({ length: MOST_LAMPS }, () => new THREE.Vector3()) },
    ...{
      lamps: { value: 0 },
      ofSpot: { value: none() },
      ofSun: { value: none() },
      ofPoint: { value: none() },
      above: { value: new THREE.Vector3() },
      below: { value: new THREE.Vector3() },
    },
  }

  constructor(shadow: GasShadow) {
    const m = this.material
    m.side = THREE.DoubleSide
    m.transparent = true
    m.premultipliedAlpha = true
    m.blending = THREE.CustomBlending
    m.blendSrc = m.blendSrcAlpha = THREE.OneFactor
    m.blendDst = m.blendDstAlpha = THREE.OneMinusSrcAlphaFactor
    // It hides what is behind it as the surface that it stands for does.
    m.depthWrite = true
    this.front.polygonOffset = true
    this.front.polygonOffsetFactor = this.front.polygonOffsetUnits = 1
    shadow.into(m, (fragment) =>
      fragment
        .replace('void main() {', SHADER)
        .replace(/gl_FragColor = vec4\([^;]*;/, 'vec3 n = faces();\n\tgl_FragColor = vec4(effectLight(n), opacity * taken(n));')
        .replace('#include <premultiplied_alpha_fragment>', ''),
    )
    const before = m.onBeforeCompile
    m.onBeforeCompile = (shader, r) => {
      Object.assign(shader.uniforms, this.uniforms)
      before.call(m, shader, r)
    }
    m.customProgramCacheKey = () => 'catches'
  }
  /** Goes along with the mesh that catches, and is drawn before what is seen through. */
  depthOf(mesh: THREE.Mesh): THREE.Mesh {
    const depth = new THREE.Mesh(mesh.geometry, this.front)
    depth.matrixAutoUpdate = false
    depth.raycast = () => {}
    return depth
  }
  /** As it is at a moment, in the light of then. */
  set({ id, material }: ObjectDoc, t: number, light: CaughtLight): void {
    const u = this.uniforms
    this.material.opacity = sampleNumber(material.opacity ?? 100, t) / 100
    u.caught.value.setRGB(...sampleColour(material.colour, t))
    const bright = (f: Flame) => Math.max(...f.power)
    const { effects } = light
    const used = effects.length > MOST ? [...effects].sort((a, b) => bright(b) - bright(a)).slice(0, MOST) : effects
    used.forEach((f, i) => {
      u.effectAt.value[i].set(...f.place)
      u.effectPower.value[i].set(...f.power)
    })
    u.effects.value = used.length
    light.lamps.slice(0, MOST_LAMPS).forEach((l, i) => {
      u.lampAt.value[i].set(...l.place, l.sun ? 0 : 1)
      u.lampAim.value[i].set(...(l.spot?.aim ?? [0, 0, 0]), l.spot?.from ?? 0)
      // A cosine is never more than one: no cone.
      u.lampTo.value[i] = l.spot ? Math.max(l.spot.to, l.spot.from + 1e-4) : 2
      const share = lightShare(light.lit[i], id)
      u.lampPower.value[i].set(l.colour[0] * share, l.colour[1] * share, l.colour[2] * share)
    })
    u.lamps.value = Math.min(MOST_LAMPS, light.lamps.length)
    for (const [list, of] of [
      [u.ofSpot.value, light.spots],
      [u.ofSun.value, light.suns],
      [u.ofPoint.value, light.points],
    ] as const)
      for (let i = 0; i < MOST_SHADOWS; i++) list[i] = of[i] ?? -1
    u.above.value.set(...light.above)
    u.below.value.set(...light.below)
  }
  dispose(): void {
    this.front.dispose()
    this.material.dispose()
  }
}
const none = () => Array.from({ length: MOST_SHADOWS }, () => -1)
const fours = () => Array.from({ length: MOST_LAMPS }, () => new THREE.Vector4())
/** What shines on what only catches: what the plate has in it already, and what the effects bring. */
export interface CaughtLight {
  lamps: readonly MarchLight[]
  /** The lights that these are. */
  lit: readonly LightDoc[]
  /** Of the lamps those that throw shadows, spots and suns, each in their order; −1: one that is no lamp but an effect. */
  spots: readonly number[]
  suns: readonly number[]
  /** Points, and the middles of areas. */
  points: readonly number[]
  above: Vec3
  below: Vec3
  effects: readonly Flame[]
}
/** `lights`: those of the shot where they stand then; `flames`: what shines and is no light of the shot. */
export function caughtLight(shot: Shot, lights: readonly LightDoc[], t: number, flames: readonly Flame[]): CaughtLight {
  const follows = new Set(shot.lights.flatMap((l) => (shot.systems.some((s) => s.id === l.follows) ? [l.id] : [])))
  const effects = lights.flatMap((l): Flame[] => {
    if (!follows.has(l.id) || l.muted || l.kind !== 'point') return []
    const strength = sampleNumber(l.strength, t)
    return [{ place: sampleVec3(l.place, t), radius: 0, power: sampleColour(l.colour, t).map((c) => c * strength) as Flame['power'] }]
  })
  const still = { ...shot, lights: lights.filter((l) => !follows.has(l.id)) }
  const lit = shiningLights(still)
  const casting = (...kinds: LightDoc['kind'][]) =>
    shadowLights(shot)
      .filter((l) => kinds.includes(l.kind))
      .map((l) => lit.findIndex((x) => x.id === l.id))
  return {
    lamps: lightsAt(still, t),
    lit,
    spots: casting('spot'),
    suns: casting('sun'),
    points: casting('point', 'area'),
    ...ambientOf(still, t),
    effects: [...flames, ...effects],
  }
}
