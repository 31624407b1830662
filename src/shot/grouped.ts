/**
 * A number with commas between thousands and at most three decimals, as in English. Written out: the locale's own formatter takes some 60 ms when
 * it is first asked, and every page that opened a shot waited for it.
 */
export function grouped(n: number): string {
  const rounded = Number.isInteger(n) ? n : Math.round(n * 1000) / 1000
  if (!Number.isFinite(rounded) || Math.abs(rounded) >= 1e21) return String(n)
  const [whole, part] = String(Math.abs(rounded)).split('.')
  return `${rounded < 0 ? '-' : ''}${whole.replace(/\B(?=(\d{3})+$)/g, ',')}${part ? `.${part}` : ''}`
}
