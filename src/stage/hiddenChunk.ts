/** For materials: whether all of what lies around a pixel is hidden by something nearer. */
export const HIDDEN = `
uniform highp sampler2D hiding; uniform float hides;
bool isHidden() {
  float z = gl_FragCoord.z, steep = abs(dFdx(z)) + abs(dFdy(z));
  return hides > 0.5 && z - 2.0 * steep - 1e-6 > texelFetch(hiding, ivec2(gl_FragCoord.xy) >> 1, 0).r;
}
`
