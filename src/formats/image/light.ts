import { type MeshPicture, toHalf } from '../../engine'

export { toHalf }

/** A picture of light as it is, brighter than white too: linear red, green, blue and alpha as 16-bit floats, row by row from the top. */
export interface LightPicture {
  width: number
  height: number
  data: Uint16Array
}
/** What the data of such a picture in a mesh's textures is: its halfs, as many as `size` says. */
export const LIGHT_TYPE = 'image/x-linear-half'

const HALF = Float32Array.from({ length: 65536 }, (_, h) => {
  const e = (h >>> 10) & 31
  const m = h & 1023
  const v = e === 0 ? m * 2 ** -24 : e === 31 ? (m ? Number.NaN : Number.POSITIVE_INFINITY) : (1 + m / 1024) * 2 ** (e - 15)
  return h & 0x8000 ? -v : v
})
export const fromHalf = (h: number): number => HALF[h]

/** Wider ones are averaged down by twos: light from around needs no more, and a picture behind is seen no sharper. */
const MOST_WIDTH = 4096
/** At most so wide; `halved`: how often it was halved for that. */
export function fitting(p: LightPicture, most = MOST_WIDTH): { picture: LightPicture; halved: number } {
  let picture = p
  let halved = 0
  for (; picture.width > most && picture.height > 1; halved++) picture = halfOf(picture)
  return { picture, halved }
}
function halfOf({ width, height, data }: LightPicture): LightPicture {
  const w = width >> 1
  const h = height >> 1
  const out = new Uint16Array(w * h * 4)
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++)
      for (let k = 0; k < 4; k++) {
        const at = (2 * y * width + 2 * x) * 4 + k
        const sum = HALF[data[at]] + HALF[data[at + 4]] + HALF[data[at + width * 4]] + HALF[data[at + width * 4 + 4]]
        out[(y * w + x) * 4 + k] = toHalf(sum / 4)
      }
  return { width: w, height: h, data: out }
}
/**
 * What a picture that goes all around and from pole to pole gives: the radiance above and below, by the cosine, so that π times either is the
 * irradiance of a face that lies flat. A row at a height φ has the weight sin φ cos φ.
 */
export function lightAround({ width, height, data }: LightPicture): { above: [number, number, number]; below: [number, number, number] } {
  const half = (from: number, to: number): [number, number, number] => {
    const sum = [0, 0, 0]
    let all = 0
    for (let y = from; y < to; y++) {
      const high = (0.5 - (y + 0.5) / height) * Math.PI
      const weight = Math.abs(Math.sin(high)) * Math.cos(high)
      all += weight * width
      for (let k = 0; k < 3; k++) {
        let row = 0
        for (let at = y * width * 4 + k, end = (y + 1) * width * 4; at < end; at += 4) row += HALF[data[at]]
        sum[k] += row * weight
      }
    }
    return sum.map((s) => (all > 0 ? s / all : 0)) as [number, number, number]
  }
  const middle = Math.ceil(height / 2)
  return { above: half(0, middle), below: half(Math.floor(height / 2), height) }
}
/** A light picture of a mesh; null for any other. */
export const lightOf = (p: MeshPicture): LightPicture | null =>
  p.type === LIGHT_TYPE && p.size
    ? { width: p.size[0], height: p.size[1], data: new Uint16Array(p.data.buffer, p.data.byteOffset, p.data.byteLength / 2) }
    : null
