/** In the vertex shader of particles: how one lies, as it spins, or without that in a way of its own (Shoemake 1992). `own`: the seed of what is drawn. */
export const LYING = `
vec4 lying(uint me, uint seed, uint own) {
  if (quaternions > 0u) return vec4(numberAt(quaternions, me), numberAt(quaternions + 1u, me), numberAt(quaternions + 2u, me), numberAt(quaternions + 3u, me));
  float a = hashUnit(own, seed, 24u), b = 6.2831853 * hashUnit(own, seed, 25u), c = 6.2831853 * hashUnit(own, seed, 26u);
  return vec4(sqrt(1.0 - a) * vec2(sin(b), cos(b)), sqrt(a) * vec2(sin(c), cos(c)));
}
vec3 turnedBy(vec4 q, vec3 v) { return v + 2.0 * cross(q.xyz, cross(q.xyz, v) + q.w * v); }
`
/** In pixel shaders: what is left of something at a view depth (m) that fades over so many metres before an object. */
export const MEETING = `
uniform highp sampler2D sceneDepth; uniform vec2 nearFar;
float meeting(float away, float over) {
  if (over <= 0.0) return 1.0;
  float d = texelFetch(sceneDepth, ivec2(gl_FragCoord.xy), 0).r;
  float z = nearFar.x * nearFar.y / (nearFar.y - d * (nearFar.y - nearFar.x));
  return clamp((z - away) / over, 0.0, 1.0);
}
`
