import { cosDeg, exp2, hash3, log2, noise1, power, sinDeg, unit } from '../engine'

/** What a formula is computed from. */
export interface Surroundings {
  /** seconds from the shot's first frame */
  time: number
  frame: number
  /** The value from the keys and from the modulators before. */
  keyed: number
  named(name: string): number
}
export type Formula = { ok: true; names: string[]; run(s: Surroundings): number } | { ok: false; at: number; message: string }

interface Fn {
  minimum: number
  maximum: number
  help: string
  run(...a: number[]): number
}
const fn = (minimum: number, maximum: number, help: string, run: Fn['run']): Fn => ({ minimum, maximum, help, run })
/** Every function of the language, with how it is called and what it gives. Angles are degrees. */
export const FUNCTIONS: Readonly<Record<string, Fn>> = {
  abs: fn(1, 1, 'abs(x): x without its sign', (x) => Math.abs(x)),
  sign: fn(1, 1, 'sign(x): −1, 0 or 1', (x) => (x > 0 ? 1 : x < 0 ? -1 : 0)),
  floor: fn(1, 1, 'floor(x): the whole number at or below x', (x) => Math.floor(x)),
  ceil: fn(1, 1, 'ceil(x): the whole number at or above x', (x) => Math.ceil(x)),
  round: fn(1, 1, 'round(x): the nearest whole number', (x) => Math.floor(x + 0.5)),
  sqrt: fn(1, 1, 'sqrt(x): square root', (x) => Math.sqrt(x)),
  min: fn(1, 8, 'min(a, b, …): the smallest', (...a) => Math.min(...a)),
  max: fn(1, 8, 'max(a, b, …): the largest', (...a) => Math.max(...a)),
  clamp: fn(3, 3, 'clamp(x, low, high): x, held between the two', (x, a, b) => Math.min(Math.max(x, a), b)),
  mix: fn(3, 3, 'mix(a, b, x): a where x is 0, b where x is 1, straight between and beyond', (a, b, x) => a + (b - a) * x),
  smooth: fn(3, 3, 'smooth(from, to, x): 0 below from, 1 above to, an S between', (a, b, x) => {
    const f = Math.min(1, Math.max(0, (x - a) / (b - a)))
    return f * f * (3 - 2 * f)
  }),
  wrap: fn(2, 2, 'wrap(x, n): x counted round from 0 to n', (x, n) => x - n * Math.floor(x / n)),
  sin: fn(1, 1, 'sin(degrees)', (x) => sinDeg(x)),
  cos: fn(1, 1, 'cos(degrees)', (x) => cosDeg(x)),
  exp: fn(1, 1, 'exp(x): e to the power of x', (x) => exp2(x * 1.4426950408889634)),
  log: fn(1, 1, 'log(x): natural logarithm', (x) => log2(x) * 0.6931471805599453),
  power: fn(2, 2, 'power(x, y): x to the power of y, as x ^ y', (x, y) => power(x, y)),
  noise: fn(1, 2, 'noise(x, seed): a smooth random path over x, −1 to 1', (x, seed = 0) => noise1(seed | 0, x)),
  random: fn(1, 2, 'random(n, seed): an even random number from 0 to 1 for each whole n', (n, seed = 0) =>
    unit(hash3(seed | 0, Math.floor(n) | 0, 32)),
  ),
  when: fn(3, 3, 'when(c, a, b): a where c is above 0, else b; a comparison gives 1 or 0', (c, a, b) => (c > 0 ? a : b)),
}
/** Names that always mean something. */
export const CONSTANTS: Readonly<Record<string, string>> = {
  time: 'seconds from the first frame',
  frame: 'frames from the first frame',
  keyed: 'the value from the keys',
  pi: '3.14159…',
}

type Node = (s: Surroundings) => number
class Bad extends Error {
  constructor(
    readonly at: number,
    message: string,
  ) {
    super(message)
  }
}
const TOKEN = /\s*(?:(\d+\.?\d*(?:e[+-]?\d+)?|\.\d+(?:e[+-]?\d+)?)|([A-Za-z_][A-Za-z0-9_]*)|(<=|>=|[-+*/%^(),<>]))/y
const BINARY: readonly Readonly<Record<string, (a: number, b: number) => number>>[] = [
  { '<': (a, b) => (a < b ? 1 : 0), '>': (a, b) => (a > b ? 1 : 0), '<=': (a, b) => (a <= b ? 1 : 0), '>=': (a, b) => (a >= b ? 1 : 0) },
  { '+': (a, b) => a + b, '-': (a, b) => a - b },
  { '*': (a, b) => a * b, '/': (a, b) => a / b, '%': (a, b) => a - b * Math.floor(a / b) },
]
const MAX_DEPTH = 60
/** A suggestion for a name that is not known: the one with the longest beginning in common. */
const near = (name: string, known: string[]): string => {
  const common = (k: string) => [...k].findIndex((c, i) => c !== name[i])
  const rated = known.map((k) => ({ k, n: common(k) < 0 ? k.length : common(k) })).sort((a, b) => b.n - a.n)
  return rated[0] && rated[0].n >= 2 ? `; did you mean ${rated[0].k}?` : ''
}

/**
 * Reads a formula: numbers, + − × ÷ % ^, comparisons, brackets, functions and names. `known` are the names that lead to other
 * values. Nothing is ever handed to JavaScript; all is computed with the engine's own functions, so every machine gets the same.
 */
export function readFormula(text: string, known: readonly string[]): Formula {
  const tokens: { kind: 'number' | 'name' | 'sign' | 'end'; text: string; at: number }[] = []
  const used = new Set<string>()
  let i = 0
  let depth = 0
  try {
    for (let at = 0; ; ) {
      TOKEN.lastIndex = at
      const m = TOKEN.exec(text)
      if (!m) {
        const rest = text.slice(at).trimStart()
        if (!rest) break
        throw new Bad(text.length - rest.length, `“${rest[0]}” means nothing in a formula`)
      }
      const start = TOKEN.lastIndex - m[0].trimStart().length
      tokens.push({ kind: m[1] ? 'number' : m[2] ? 'name' : 'sign', text: m[1] ?? m[2] ?? m[3], at: start })
      at = TOKEN.lastIndex
    }
    tokens.push({ kind: 'end', text: '', at: text.length })
    if (tokens.length === 1) throw new Bad(0, 'the formula is empty; write one, such as keyed + sin(time * 90)')
    const take = (sign: string) => {
      const t = tokens[i]
      if (t.kind !== 'sign' || t.text !== sign)
        throw new Bad(t.at, `expected “${sign}”${t.kind === 'end' ? ' before the end' : ` instead of “${t.text}”`}`)
      i++
    }
    const atom = (): Node => {
      const t = tokens[i++]
      if (t.kind === 'number') {
        const v = Number(t.text)
        return () => v
      }
      if (t.kind === 'sign' && t.text === '(') {
        const inside = level(0)
        take(')')
        return inside
      }
      if (t.kind !== 'name')
        throw new Bad(t.at, t.kind === 'end' ? 'something is missing at the end' : `“${t.text}” stands where a number or a name should`)
      if (tokens[i].kind === 'sign' && tokens[i].text === '(') {
        const f = Object.hasOwn(FUNCTIONS, t.text) ? FUNCTIONS[t.text] : undefined
        if (!f) throw new Bad(t.at, `there is no function ${t.text}${near(t.text, Object.keys(FUNCTIONS))}`)
        i++
        const args: Node[] = []
        if (!(tokens[i].kind === 'sign' && tokens[i].text === ')')) {
          do args.push(level(0))
          while (tokens[i].kind === 'sign' && tokens[i].text === ',' && ++i)
        }
        take(')')
        if (args.length < f.minimum || args.length > f.maximum)
          throw new Bad(
            t.at,
            `${t.text} takes ${f.minimum === f.maximum ? f.minimum : `${f.minimum} to ${f.maximum}`} values, not ${args.length}: ${f.help}`,
          )
        return (s) => f.run(...args.map((a) => a(s)))
      }
      if (t.text === 'time') return (s) => s.time
      if (t.text === 'frame') return (s) => s.frame
      if (t.text === 'keyed') return (s) => s.keyed
      if (t.text === 'pi') return () => Math.PI
      if (!known.includes(t.text))
        throw new Bad(
          t.at,
          Object.hasOwn(FUNCTIONS, t.text)
            ? `${t.text} is a function: ${FUNCTIONS[t.text].help}`
            : `nothing here is called ${t.text}${near(t.text, [...known, ...Object.keys(CONSTANTS)])}; pick a value and give it this name`,
        )
      used.add(t.text)
      return (s) => s.named(t.text)
    }
    const powers = (): Node => {
      const base = atom()
      if (tokens[i].kind === 'sign' && tokens[i].text === '^') {
        i++
        const exponent = signed()
        return (s) => power(base(s), exponent(s))
      }
      return base
    }
    const signed = (): Node => {
      if (++depth > MAX_DEPTH) throw new Bad(tokens[i].at, 'the formula is nested too deeply')
      const t = tokens[i]
      let out: Node
      if (t.kind === 'sign' && (t.text === '-' || t.text === '+')) {
        i++
        const x = signed()
        out = t.text === '-' ? (s) => -x(s) : x
      } else out = powers()
      depth--
      return out
    }
    const level = (n: number): Node => {
      if (n === BINARY.length) return signed()
      let left = level(n + 1)
      while (tokens[i].kind === 'sign' && Object.hasOwn(BINARY[n], tokens[i].text)) {
        const op = BINARY[n][tokens[i++].text]
        const a = left
        const b = level(n + 1)
        left = (s) => op(a(s), b(s))
      }
      return left
    }
    const run = level(0)
    if (tokens[i].kind !== 'end') throw new Bad(tokens[i].at, `“${tokens[i].text}” does not belong here`)
    return { ok: true, names: [...used], run }
  } catch (error) {
    if (error instanceof Bad) return { ok: false, at: error.at, message: error.message }
    throw error
  }
}
