/**
 * A blur along a way in two rounds of as many places: the second fills what lies between those of the first, so that TAPS² of them are added up.
 * `place(uv, s)`: where a share from −0.5 to 0.5 of the whole way is from a place.
 */
export const TAPS = 12
export const alongWay = (place: string): string => `
${place}
vec4 finish(vec2 uv) {
  vec4 sum = vec4(0.0);
  for (int i = 0; i < ${TAPS}; i++) sum += texture(picture, place(uv, ((float(i) + 0.5) / float(${TAPS}) - 0.5) * part));
  return sum / float(${TAPS});
}`
/** Shares of the way that the two rounds take. */
export const ROUNDS = [1, 1 / TAPS]
