import type { NumberParam, Unit } from '../shot'
import { grouped } from '../shot'

/** Other units that may be typed, as factors to the unit that is stored. */
const OTHERS: Record<string, Partial<Record<Unit, number>>> = {
  mm: { m: 0.001, mm: 1, 'm/s': 0.001 },
  cm: { m: 0.01, mm: 10 },
  m: { m: 1, mm: 1000 },
  km: { m: 1000 },
  ms: { s: 0.001 },
  s: { s: 1 },
  min: { s: 60 },
  'mm/s': { 'm/s': 0.001 },
  'cm/s': { 'm/s': 0.01 },
  'm/s': { 'm/s': 1 },
  'km/h': { 'm/s': 1 / 3.6 },
  'cm/s²': { 'm/s²': 0.01 },
  'm/s²': { 'm/s²': 1 },
  'm/s2': { 'm/s²': 1 },
  g: { 'm/s²': 9.80665 },
  '/s': { '1/s': 1 },
  '1/s': { '1/s': 1 },
  hz: { '1/s': 1 },
  '°': { '°': 1 },
  deg: { '°': 1 },
  rad: { '°': 180 / Math.PI },
  turn: { '°': 360 },
  '%': { '%': 1, '1': 0.01, '×': 0.01 },
  '×': { '×': 1, '1': 1 },
  x: { '×': 1, '1': 1 },
}
/** What stands behind a number on screen. */
export const unitText = (p: Pick<NumberParam, 'unit' | 'moment'>): string =>
  p.moment ? 'f' : p.unit === '1/s' ? '/s' : p.unit === '1' ? '' : p.unit

export type Typed = { ok: true; value: number } | { ok: false; problem: string }

/**
 * Reads what a person typed: a number or arithmetic (+ − * / and brackets), then a unit if they like. Without a unit the number is
 * in the unit shown. `fps` turns frames into seconds.
 */
export function parseTyped(text: string, p: Pick<NumberParam, 'unit' | 'moment'>, fps: number): Typed {
  const t = text.trim().replace(',', '.').replace('−', '-')
  const m = /^([-+*/(). \d]+(?:e-?\d+)?)\s*([a-zA-Z°%×/²1-9]*)$/.exec(t)
  if (!m) return { ok: false, problem: `“${text.trim()}” is not a number` }
  const value = arithmetic(m[1])
  if (value === null || !Number.isFinite(value)) return { ok: false, problem: `“${m[1].trim()}” cannot be computed` }
  const unit = m[2].toLowerCase()
  if (unit === 'f') return p.unit === 's' ? { ok: true, value: value / fps } : { ok: false, problem: 'frames do not fit here' }
  if (!unit) return { ok: true, value: p.moment ? value / fps : value }
  const factor = OTHERS[unit]?.[p.unit]
  if (factor === undefined) return { ok: false, problem: `“${m[2]}” does not fit here; the unit is ${unitText(p) || 'a plain number'}` }
  return { ok: true, value: value * factor }
}
/** + − * / and brackets by recursive descent; null when it does not read. */
export function arithmetic(text: string): number | null {
  let at = 0
  const s = text.replace(/\s+/g, '')
  const sum = (): number | null => {
    let v = product()
    while (v !== null && (s[at] === '+' || s[at] === '-')) {
      const sign = s[at++] === '+' ? 1 : -1
      const w = product()
      v = w === null ? null : v + sign * w
    }
    return v
  }
  const product = (): number | null => {
    let v = factor()
    while (v !== null && (s[at] === '*' || s[at] === '/')) {
      const times = s[at++] === '*'
      const w = factor()
      v = w === null ? null : times ? v * w : v / w
    }
    return v
  }
  const factor = (): number | null => {
    if (s[at] === '-' || s[at] === '+') {
      const sign = s[at++] === '-' ? -1 : 1
      const v = factor()
      return v === null ? null : sign * v
    }
    if (s[at] === '(') {
      at++
      const v = sum()
      if (s[at] !== ')') return null
      at++
      return v
    }
    const m = /^(\d+\.?\d*|\.\d+)(e[-+]?\d+)?/.exec(s.slice(at))
    if (!m) return null
    at += m[0].length
    return Number(m[0])
  }
  const v = sum()
  return at === s.length ? v : null
}
/** A number for reading: few digits, no exponent, thousands apart when large. */
export function show(value: number, p?: Pick<NumberParam, 'unit' | 'moment' | 'integer'>, fps = 24): string {
  const v = p?.moment ? value * fps : value
  if (!Number.isFinite(v)) return '–'
  const a = Math.abs(v)
  if (p?.integer || (p?.moment && Math.abs(v - Math.round(v)) < 0.005)) return grouped(Math.round(v))
  if (a >= 10000) return grouped(Math.round(v))
  // About three digits that count.
  const digits = a >= 100 ? 1 : a >= 1 || a === 0 ? 2 : a >= 0.1 ? 3 : a >= 0.01 ? 4 : 5
  return v
    .toFixed(digits)
    .replace(/(\.\d*?)0+$/, '$1')
    .replace(/\.$/, '')
    .replace('-', '−')
}
/** Small lengths read better in millimetres. */
export function showWithUnit(value: number, p: Pick<NumberParam, 'unit' | 'moment' | 'integer'>, fps: number): string {
  if (p.unit === 'm' && value !== 0 && Math.abs(value) < 0.1) return `${show(value * 1000)} mm`
  const u = unitText(p)
  return `${show(value, p, fps)}${u === '' ? '' : u === '/s' || u === '%' || u === '°' || u === '×' ? (u === '/s' ? ' /s' : u === '°' ? '°' : ` ${u}`) : ` ${u}`}`
}
/** Three numbers in a row. */
export const showXyz = (v: readonly number[]): string => v.map((x) => show(x)).join(', ')
/** The hour and minute of a moment, as clocks here say it. Written out: the locale's formatter takes up to 90 ms when it is first asked. */
export function clockTime(at: string | Date): string {
  const d = new Date(at)
  return [d.getHours(), d.getMinutes()].map((n) => String(n).padStart(2, '0')).join(':')
}
