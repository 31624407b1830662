import { IN_FOG } from './front'

// The march of kernels/march.ts in a shader, for where there is a GPU: the same rays, the same samples, the same sums. Grids lie in textures with
// one cell around; positions are in voxels.

export const MARCH = `
precision highp float; precision highp int;
out vec4 colour; uniform float fogDepth;
${IN_FOG}
uniform highp sampler3D cells; uniform highp sampler3D light; uniform highp usampler3D full;
uniform sampler2D tones; // 256 texels: what shines in one row, colours in the next
uniform highp sampler2D depth; uniform highp sampler2D blue;
uniform vec3 dims; uniform float wide; uniform float lit; uniform float shines; uniform float byHue;
uniform vec3 eye; uniform vec3 ahead; uniform vec3 right; uniform vec3 up; uniform vec2 pixels;
uniform float stride; uniform float voxel; uniform float exit; uniform vec2 nearFar; uniform float ends;
vec4 toneAt(float x, int row) {
  float q = clamp(x, 0.0, 1.0) * 255.0;
  int i = min(int(q), 254);
  vec4 a = texelFetch(tones, ivec2(i, row), 0);
  return a + (texelFetch(tones, ivec2(i + 1, row), 0) - a) * (q - float(i));
}
float dither(vec2 p) { return texelFetch(blue, ivec2(p) & (textureSize(blue, 0) - 1), 0).r; }
vec3 away(vec3 d) { return mix(d, vec3(1e-6), vec3(lessThan(abs(d), vec3(1e-6)))); }
void main() {
  vec2 p = floor(gl_FragCoord.xy);
  vec2 at = 2.0 * (p + 0.5) / pixels - 1.0;
  vec3 d = ahead + at.x * right + at.y * up;
  float way = length(d);
  d = away(d / way);
  vec3 i = 1.0 / d, a = -eye * i, b = (dims - eye) * i, low = min(a, b), high = max(a, b);
  float t0 = max(0.0, max(low.x, max(low.y, low.z))), t1 = min(high.x, min(high.y, high.z));
  float z = texelFetch(depth, ivec2(p), 0).r;
  if (z < 1.0 || ends > 0.5) t1 = min(t1, way * nearFar.x * nearFar.y / (nearFar.y - z * (nearFar.y - nearFar.x)));
  vec3 sum = vec3(0.0);
  float left = 1.0;
  if (t0 < t1) {
    float t = (floor(t0 / stride) + dither(p)) * stride;
    if (t < t0) t += stride;
    vec3 ahead8 = vec3(greaterThan(d, vec3(0.0))) * 8.0, most = dims - 0.001;
    for (int n = 0; n < 8192 && t < t1 && left > exit; n++) {
      vec3 x = clamp(eye + t * d, vec3(0.0), most);
      vec3 tile = floor(x / 8.0);
      if (texelFetch(full, ivec3(tile), 0).r == 0u) {
        vec3 outs = (tile * 8.0 + ahead8 - x) * i;
        t += (floor(max(0.0, min(outs.x, min(outs.y, outs.z))) / stride) + 1.0) * stride;
        continue;
      }
      t += stride;
      vec3 c = texture(cells, (x + 1.0) / (dims + 2.0)).rgb;
      float goes = c.r > 0.0 ? exp(-c.r * stride) : 1.0;
      if (shines > 0.5 && c.g > 0.0)
        sum += toneAt(byHue > 0.5 ? c.b : c.g, 1).rgb * (toneAt(c.g, 0).r * left * stride * voxel * 0.5 * (1.0 + goes));
      if (c.r > 0.0) {
        if (lit > 0.5) sum += texture(light, (x / wide + 1.0) / (dims / wide + 2.0)).rgb * (left * (1.0 - goes));
        left *= goes;
      }
    }
  }
  colour = fogged(vec4(sum, 1.0 - left), at, fogDepth);
}`
