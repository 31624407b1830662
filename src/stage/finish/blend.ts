import type { FinishPass } from '../../acts'
import type { LayerDoc } from '../../shot'

/** How a layer `n`, as much as it is seen, joins what is behind, both premultiplied. */
const BLENDS: Record<LayerDoc['blend'], string> = {
  over: 'return n + c * (1.0 - n.a);',
  // Light covers nothing.
  add: 'return vec4(c.rgb + n.rgb, c.a);',
  screen: 'vec3 s = clamp(n.rgb, 0.0, 1.0); return vec4(c.rgb + s - s * clamp(c.rgb, 0.0, 1.0), c.a);',
  multiply: 'return vec4(c.rgb * (1.0 - n.a + n.rgb), c.a);',
}
/** `cut`: whether a picture `cut` says where it is seen. */
export const blendPass = (blend: LayerDoc['blend'], opacity: number, cut: boolean, outside: boolean): FinishPass => ({
  point: true,
  glsl: `
vec4 finish(vec4 c, vec2 uv) {
  float seen = opacity;
  ${cut ? 'float m = clamp(dot(texture(stencil, uv).rgb, vec3(0.2126, 0.7152, 0.0722)), 0.0, 1.0); seen *= outside > 0.5 ? 1.0 - m : m;' : ''}
  vec4 n = texture(layer, uv);
  n = vec4(n.rgb, clamp(n.a, 0.0, 1.0)) * seen;
  ${BLENDS[blend]}
}`,
  values: cut ? { opacity, outside: outside ? 1 : 0 } : { opacity },
  reads: cut ? { layer: 'layer', stencil: 'stencil' } : { layer: 'layer' },
})
