import { type Draw, LOOK_SAMPLES, lookTable } from '../../acts'
import { PLAIN_2D } from '../canvas'

const film = (x: number) => Math.min(1, Math.max(0, (x * (2.51 * x + 0.03)) / (x * (2.43 * x + 0.59) + 0.14)))
const encode = (v: number) => (v <= 0.0031308 ? v * 12.92 : 1.055 * v ** (1 / 2.4) - 0.055)

/** A particle's life as one streak: as thick as its size, coloured and faded by its look, as bright as the stage would show it. */
export function paintStrip(canvas: HTMLCanvasElement, draw: Pick<Draw, 'look' | 'opacity' | 'brightness'>): void {
  const { width, height } = canvas
  const g = canvas.getContext('2d', PLAIN_2D)
  if (!g || width < 2) return
  const image = g.createImageData(width, height)
  const table = lookTable(draw.look)
  let top = 1e-6
  for (let i = 0; i < LOOK_SAMPLES; i++) top = Math.max(top, table[i * 5 + 4])
  const mid = height / 2
  for (let x = 0; x < width; x++) {
    const i = Math.min(LOOK_SAMPLES - 1, Math.round((x / (width - 1)) * (LOOK_SAMPLES - 1))) * 5
    const half = Math.max(0.7, (table[i + 4] / top) * mid * 0.82)
    const opacity = table[i + 3] * draw.opacity
    const light = Math.min(draw.brightness, 12) * 0.55
    for (let y = 0; y < height; y++) {
      const d = Math.abs(y + 0.5 - mid) / half
      const core = d < 1 ? (1 - d * d) ** 2 : 0
      const halo = Math.exp(-d * d * 0.9) * 0.12
      const k = (core + halo) * opacity * light
      const o = (y * width + x) * 4
      for (let c = 0; c < 3; c++) image.data[o + c] = Math.round(encode(film(table[i + c] * k)) * 255)
      image.data[o + 3] = 255
    }
  }
  g.putImageData(image, 0, 0)
}
/** Every living particle as a speck at its place in life. */
export function paintSpecks(canvas: HTMLCanvasElement, ages: Float32Array | undefined): void {
  const g = canvas.getContext('2d', PLAIN_2D)
  if (!g) return
  g.clearRect(0, 0, canvas.width, canvas.height)
  if (!ages) return
  g.fillStyle = 'rgba(228, 232, 220, 0.75)'
  for (let i = 0; i < ages.length; i++) {
    const row = ((Math.imul(i + 1, 0x9e3779b1) >>> 8) % 1000) / 1000
    g.fillRect(Math.round(ages[i] * (canvas.width - 1)), Math.round(row * (canvas.height - 1)), 1, 1)
  }
}
