/** Linear red, green, blue. */
type Colour = readonly [number, number, number]

/**
 * A colour as a particle keeps it that took it over: without its brightness, as square roots in eight bits each, and above them the share (0 to
 * 1) in which it counts. 0: none.
 */
export function tintOf(colour: Colour, share: number): number {
  const most = Math.max(...colour)
  const part = Math.round(Math.min(1, Math.max(0, share)) * 255)
  if (!(most > 0) || !part) return 0
  const [r, g, b] = colour.map((c) => Math.round(Math.sqrt(Math.max(0, c) / most) * 255))
  return ((part << 24) | (b << 16) | (g << 8) | r) >>> 0
}
/** A colour on the way to a tint, as bright in its brightest part as it was. The shader of particles does the same. */
export function tinted(colour: Colour, tint: number): [number, number, number] {
  const share = (tint >>> 24) / 255
  const most = Math.max(...colour)
  const mix = (c: number, shift: number) => c + ((((tint >>> shift) & 255) / 255) ** 2 * most - c) * share
  return [mix(colour[0], 0), mix(colour[1], 8), mix(colour[2], 16)]
}
