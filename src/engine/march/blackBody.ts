/** m·K. */
const SECOND_RADIATION = 1.438777e-2
/** The CIE 1931 colour matching functions of the 2° observer from 380 nm on, every 10 nm: x, y, z in millionths. */
const FIRST = 380
const STEP = 10
const MATCHING = [
  [1368, 39, 6450],
  [4243, 120, 20050],
  [14310, 396, 67850],
  [43510, 1210, 207400],
  [134380, 4000, 645600],
  [283900, 11600, 1385600],
  [348280, 23000, 1747060],
  [336200, 38000, 1772110],
  [290800, 60000, 1669200],
  [195360, 90980, 1287640],
  [95640, 139020, 812950],
  [32010, 208020, 465180],
  [4900, 323000, 272000],
  [9300, 503000, 158200],
  [63270, 710000, 78250],
  [165500, 862000, 42160],
  [290400, 954000, 20300],
  [433450, 994950, 8750],
  [594500, 995000, 3900],
  [762100, 952000, 2100],
  [916300, 870000, 1650],
  [1026300, 757000, 1100],
  [1062200, 631000, 800],
  [1002600, 503000, 340],
  [854450, 381000, 190],
  [642400, 265000, 50],
  [447900, 175000, 20],
  [283500, 107000, 0],
  [164900, 61000, 0],
  [87400, 32000, 0],
  [46770, 17000, 0],
  [22700, 8210, 0],
  [11359, 4102, 0],
  [5790, 2091, 0],
  [2899, 1047, 0],
  [1440, 520, 0],
  [690, 249, 0],
  [332, 120, 0],
  [166, 60, 0],
  [83, 30, 0],
  [42, 15, 0],
] as const
/** The colour of a black body in CIE XYZ by Planck's law, for a Y of one. `kelvin`: above zero. */
export function blackBodyXyz(kelvin: number): [number, number, number] {
  const sum = [0, 0, 0]
  MATCHING.forEach((m, i) => {
    const nm = FIRST + STEP * i
    // Against 600 nm, so that nothing is too small to be counted.
    const power = (600 / nm) ** 5 * (Math.expm1(SECOND_RADIATION / (600e-9 * kelvin)) / Math.expm1(SECOND_RADIATION / (nm * 1e-9 * kelvin)))
    for (let a = 0; a < 3; a++) sum[a] += power * m[a]
  })
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
