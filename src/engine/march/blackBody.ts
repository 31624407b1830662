/** m·K, and the CIE 1931 matching functions as sums of Gaussians (Wyman, Sloan and Shirley 2013, multi-lobe fit). */
const SECOND_RADIATION = 1.438777e-2
const lobe = (nm: number, at: number, below: number, above: number): number => {
  const s = (nm - at) * (nm < at ? below : above)
  return Math.exp(-0.5 * s * s)
}
const matching = (nm: number): [number, number, number] => [
  0.362 * lobe(nm, 442, 0.0624, 0.0374) + 1.056 * lobe(nm, 599.8, 0.0264, 0.0323) - 0.065 * lobe(nm, 501.1, 0.049, 0.0382),
  0.821 * lobe(nm, 568.8, 0.0213, 0.0247) + 0.286 * lobe(nm, 530.9, 0.0613, 0.0322),
  1.217 * lobe(nm, 437, 0.0845, 0.0278) + 0.681 * lobe(nm, 459, 0.0385, 0.0725),
]
/** The colour of a black body in CIE XYZ by Planck's law, for a Y of one. `kelvin`: above zero. */
export function blackBodyXyz(kelvin: number): [number, number, number] {
  const sum = [0, 0, 0]
  for (let nm = 380; nm <= 780; nm += 5) {
    // Against 600 nm, so that nothing is too small to be counted.
    const power = (600 / nm) ** 5 * (Math.expm1(SECOND_RADIATION / (600e-9 * kelvin)) / Math.expm1(SECOND_RADIATION / (nm * 1e-9 * kelvin)))
    const m = matching(nm)
    for (let a = 0; a < 3; a++) sum[a] += power * m[a]
  }
  return [sum[0] / sum[1], 1, sum[2] / sum[1]]
}
/** The same as linear Rec. 709 with a luminance of one; what lies outside of it is taken to its edge. */
export function blackBodyColour(kelvin: number): [number, number, number] {
  const [x, y, z] = blackBodyXyz(Math.max(400, kelvin))
  const rgb = [
    3.2404542 * x - 1.5371385 * y - 0.4985314 * z,
    -0.969266 * x + 1.8760108 * y + 0.041556 * z,
    0.0556434 * x - 0.2040259 * y + 1.0572252 * z,
  ].map((v) => Math.max(0, v))
  const light = 0.2126 * rgb[0] + 0.7152 * rgb[1] + 0.0722 * rgb[2]
  return rgb.map((v) => v / light) as [number, number, number]
}
