import * as THREE from 'three'
import type { Flame } from '../engine'
import type { Vec3 } from '../shot'
import type { GasShadow } from './gasShadow'

/** Lights of effects that reach what only catches; the brightest where there are more. */
const MOST = 16

/**
 * What only catches: it is not seen, darkens what is behind by the shadow on it, and gives back the light of fire and of what follows particles,
 * as a matt surface of its colour (Lambert). Drawn over what is behind, premultiplied: black as far as it is in shadow, and the light added.
 */
export class Catcher {
  readonly material = new THREE.ShadowMaterial()
  private uniforms = {
    effectAt: { value: Array.from({ length: MOST }, () => new THREE.Vector3()) },
    effectPower: { value: Array.from({ length: MOST }, () => new THREE.Vector3()) },
    effects: { value: 0 },
    caught: { value: new THREE.Color() },
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
    shadow.into(m, (fragment) =>
      fragment
        .replace(
          'void main() {',
          `uniform vec3 effectAt[${MOST}], effectPower[${MOST}], caught; uniform int effects;
vec3 effectLight() {
  vec3 n = normalize(cross(dFdx(gasPlace), dFdy(gasPlace))), sum = vec3(0.0);
  if (dot(n, cameraPosition - gasPlace) < 0.0) n = -n;
  for (int i = 0; i < ${MOST}; i++) {
    if (i >= effects) break;
    vec3 to = effectAt[i] - gasPlace;
    float d2 = max(dot(to, to), 1e-4);
    sum += effectPower[i] * max(dot(n, to), 0.0) / (d2 * sqrt(d2));
  }
  return sum * caught * 0.31830989;
}
void main() {`,
        )
        .replace(/gl_FragColor = vec4\([^;]*;/, 'gl_FragColor = vec4(effectLight(), opacity * (1.0 - getShadowMask() * gasLeft()));')
        .replace('#include <premultiplied_alpha_fragment>', ''),
    )
    const before = m.onBeforeCompile
    m.onBeforeCompile = (shader, r) => {
      Object.assign(shader.uniforms, this.uniforms)
      before.call(m, shader, r)
    }
    m.customProgramCacheKey = () => 'catches'
  }
  /** `colour`: how much of the light it gives back; `shadow`: how much of it a shadow takes, 0 to 1. */
  set(colour: Vec3, shadow: number, lights: readonly Flame[]): void {
    this.material.opacity = shadow
    this.uniforms.caught.value.setRGB(...colour)
    const bright = (f: Flame) => Math.max(...f.power)
    const used = lights.length > MOST ? [...lights].sort((a, b) => bright(b) - bright(a)).slice(0, MOST) : lights
    used.forEach((f, i) => {
      this.uniforms.effectAt.value[i].set(...f.place)
      this.uniforms.effectPower.value[i].set(...f.power)
    })
    this.uniforms.effects.value = used.length
  }
  dispose(): void {
    this.material.dispose()
  }
}
