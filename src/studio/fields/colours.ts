import { blackBodyColour } from '../../engine'
import { fromHex, toHex, type Vec3 } from '../../shot'

export const COLOUR_HELP =
  'Write a colour as #ff8020, rgb 255 128 32, linear 1 0.2 0.01, hsl 25 100 56, or 2400 K; × 3 behind it makes it three times as bright.'

const NUMBER = String.raw`(-?\d+(?:\.\d+)?|-?\.\d+)\s*%?`
const three = (name: string) => new RegExp(`^${name}\\s*\\(?\\s*${NUMBER}[\\s,]+${NUMBER}[\\s,]+${NUMBER}\\s*\\)?$`)
const SHORT = /^#?([0-9a-f])([0-9a-f])([0-9a-f])$/
const KELVIN = /^(\d+(?:\.\d+)?)\s*k$/
const BRIGHTER = /\s*[×x*]\s*(\d+(?:\.\d+)?|\.\d+)$/

const decode = (v: number) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)
const clamp = (v: number) => Math.min(1, Math.max(0, v))
/** CSS Color 4: hue in degrees, saturation and lightness in per cent. */
function ofHsl(h: number, s: number, l: number): Vec3 {
  const [sat, light] = [clamp(s / 100), clamp(l / 100)]
  return [0, 8, 4].map((n) => {
    const k = (n + h / 30 + 1200) % 12
    return decode(light - sat * Math.min(light, 1 - light) * Math.max(-1, Math.min(k - 3, 9 - k, 1)))
  }) as Vec3
}
function plain(text: string): Vec3 | null {
  const short = SHORT.exec(text)
  if (short)
    return fromHex(
      short
        .slice(1)
        .map((d) => d + d)
        .join(''),
    )
  const kelvin = KELVIN.exec(text)
  if (kelvin) {
    const k = Number(kelvin[1])
    if (k < 400 || k > 40000) return null
    const c = blackBodyColour(k)
    const most = Math.max(...c)
    return c.map((v) => v / most) as Vec3
  }
  for (const [name, of] of [
    ['s?rgb', (v: number[]) => v.map((x) => decode(clamp(x / 255))) as Vec3],
    ['linear', (v: number[]) => v.map((x) => Math.max(0, x)) as Vec3],
    ['hsl', (v: number[]) => ofHsl(v[0], v[1], v[2])],
  ] as const) {
    const m = three(name).exec(text)
    if (m) return of(m.slice(1, 4).map(Number))
  }
  return fromHex(text)
}
/** A typed colour as linear Rec. 709; null for what is none. */
export function parseColour(typed: string): Vec3 | null {
  const text = typed.trim().toLowerCase()
  const brighter = BRIGHTER.exec(text)
  const c = plain(brighter ? text.slice(0, brighter.index).trim() : text)
  return c && (c.map((v) => v * (brighter ? Number(brighter[1]) : 1)) as Vec3)
}
/** As it is shown: what is brighter than a screen is that colour so many times. */
export function showColour(c: Vec3): string {
  const most = Math.max(1, ...c)
  return `${toHex(c.map((v) => v / most) as Vec3)}${most > 1 ? ` × ${Number(most.toPrecision(3))}` : ''}`
}
