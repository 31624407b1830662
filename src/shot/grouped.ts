/**
 * A number with commas between thousands and at most three decimals, as in English. Written out, for the first use of the locale's own formatter
 * takes 60 to 90 ms, which every page that opened a shot waited for.
 */
export function grouped(n: number): string {
  const rounded = Number.isInteger(n) ? n : Math.round(n * 1000) / 1000
  if (!Number.isFinite(rounded) || Math.abs(rounded) >= 1e21) return String(n)
  const [whole, part] = String(Math.abs(rounded)).split('.')
  if (part?.includes('e')) return '0'
  return `${rounded < 0 ? '-' : ''}${whole.replace(/\B(?=(\d{3})+$)/g, ',')}${part ? `.${part}` : ''}`
}
