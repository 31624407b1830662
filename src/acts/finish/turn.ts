/** Turns hues around grey and keeps the sum of the channels. */
export const TURN = `
vec3 turned(vec3 c, float a) {
  float s = sin(a), k = cos(a);
  vec3 grey = vec3(0.57735);
  return c * k + cross(grey, c) * s + grey * dot(grey, c) * (1.0 - k);
}`
