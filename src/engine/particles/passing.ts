import { cosTurns, hash3, type Matrix, sinTurns, unit } from '../math'
import { CORE_COLUMNS, type ColumnName, type Columns, TURN_COLUMNS } from '../memory'
import type { TurnEffect } from '../ops'
import type { TurnPlan } from '../plan'

type Passes = NonNullable<TurnPlan['passes']>
/** Particles that a turn copied or took away: all their words, by column. */
export interface Passing {
  passes: Passes
  count: number
  words: Map<ColumnName, Uint32Array>
}
/** Those that are marked, by turn, in the order of the columns; the marks go. */
export function takeMarked(columns: Columns, turns: readonly TurnPlan[]): Passing[] {
  const marks = columns.words('turned')
  const places = new Map<number, number[]>()
  for (let i = 0; i < marks.length; i++) {
    if (!marks[i]) continue
    const list = places.get(marks[i])
    if (list) list.push(i)
    else places.set(marks[i], [i])
    marks[i] = 0
  }
  return [...places].flatMap(([mark, list]): Passing[] => {
    const { passes } = turns[mark - 1]
    if (!passes) return []
    const words = new Map(
      columns.names.map((name) => {
        const all = columns.words(name)
        return [name, Uint32Array.from(list, (i) => all[i])]
      }),
    )
    return [{ passes, count: list.length, words }]
  })
}
/** What is known of the phase that was left. */
const OF_PHASE: readonly ColumnName[] = ['targetFar']
const KEPT_ELSEWHERE = new Set<ColumnName>([...CORE_COLUMNS, ...TURN_COLUMNS, 'generation', 'size', 'tint'])
const signed = (h: number): number => unit(h) * 2 - 1
const bits = new DataView(new ArrayBuffer(4))
const bitsOf = (x: number): number => {
  bits.setFloat32(0, x)
  return bits.getUint32(0)
}
/**
 * Writes those who pass into columns from `first` on, where there is room for `count` of them; ids from `id` on; `from`: the system that they come from, hashed. `elsewhere`: the columns
 * are another system's, in a space that `into` leads to (null: the same). Draws are those of the kernel's turns, of a seed of their own.
 */
export function arrive(
  columns: Columns,
  first: number,
  count: number,
  { passes, words }: Passing,
  effect: TurnEffect,
  { id, from: system }: { id: number; from: number },
  elsewhere: { into: Matrix | null } | null,
): void {
  for (const name of columns.names) {
    const from = words.get(name)
    const to = columns.words(name)
    if (from && (!elsewhere || KEPT_ELSEWHERE.has(name))) to.set(from.subarray(0, count), first)
    else to.fill(0, first, first + count)
  }
  if (elsewhere?.into) move(columns, first, count, elsewhere.into)
  const [vx, vy, vz] = (['vx', 'vy', 'vz'] as const).map((n) => columns.floats(n))
  const seeds = columns.words('seed')
  const ids = columns.words('id')
  const phases = columns.words('phase')
  const dead = columns.words('dead')
  const lives = columns.floats('life')
  const starts = columns.floats('phaseStart')
  const sizes = columns.has('size') ? columns.floats('size') : null
  const from = columns.has('phaseFrom') ? columns.words('phaseFrom') : null
  const parents = columns.has('parent') ? columns.words('parent') : null
  const systems = columns.has('parentSystem') ? columns.words('parentSystem') : null
  const old = phases.slice()
  for (let i = first; i < first + count; i++) {
    const moment = starts[i]
    const own = hash3(passes.seed, seeds[i], bitsOf(moment))
    if (parents && systems) {
      parents[i] = words.get('id')?.[i - first] ?? 0
      systems[i] = system
    }
    ids[i] = id + i - first
    // A hash of the parent's and of the moment: nothing else in the shot changes it.
    seeds[i] = hash3(own, 5, 43)
    phases[i] = passes.phase
    dead[i] = 0
    const k = effect.scale + effect.scaleVary * signed(hash3(own, 1, 43))
    const h = signed(hash3(own, 2, 43))
    const r = Math.sqrt(Math.max(0, 1 - h * h)) * effect.scatter
    const a = unit(hash3(own, 3, 43))
    const v = deflected([vx[i] * k, vy[i] * k, vz[i] * k], effect, own)
    vx[i] = v[0] + effect.push[0] + r * cosTurns(a)
    vy[i] = v[1] + effect.push[1] + h * effect.scatter
    vz[i] = v[2] + effect.push[2] + r * sinTurns(a)
    if (sizes) sizes[i] = (sizes[i] + 1) * Math.max(0, effect.size + effect.sizeVary * signed(hash3(own, 6, 43))) - 1
    if (from) from[i] = elsewhere ? passes.phase : old[i]
    if (effect.life) lives[i] = moment + Math.max(1e-6, effect.life[0] + effect.life[1] * signed(hash3(own, 4, 43)))
  }
  for (const name of OF_PHASE) if (columns.has(name)) columns.words(name).fill(0, first, first + count)
  if (effect.free) for (const name of ['stuck', 'held'] as const) if (columns.has(name)) columns.words(name).fill(0, first, first + count)
}
/** A velocity turned by an angle, any way round, as the kernel's turns do it. */
function deflected(v: [number, number, number], { deflect, deflectVary }: TurnEffect, own: number): [number, number, number] {
  const speed = Math.hypot(...v)
  if ((deflect === 0 && deflectVary === 0) || !(speed > 0)) return v
  const angle = (deflect + deflectVary * signed(hash3(own, 7, 43))) / (2 * Math.PI)
  const side = unit(hash3(own, 8, 43))
  const [x, y, z] = v.map((c) => c / speed)
  const sign = z >= 0 ? 1 : -1
  const a = -1 / (sign + z)
  const b = x * y * a
  const [c, s] = [cosTurns(angle), sinTurns(angle)]
  const [su, sv] = [s * cosTurns(side), s * sinTurns(side)]
  return [
    speed * (c * x + su * (1 + sign * x * x * a) + sv * b),
    speed * (c * y + su * sign * b + sv * (sign + y * y * a)),
    speed * (c * z - su * sign * x - sv * y),
  ]
}
/** Places and velocities into another space. */
function move(columns: Columns, first: number, count: number, m: Matrix): void {
  for (const [names, shift] of [
    [['px', 'py', 'pz'], 1],
    [['sx', 'sy', 'sz'], 1],
    [['vx', 'vy', 'vz'], 0],
  ] as const) {
    const [x, y, z] = names.map((n) => columns.floats(n))
    for (let i = first; i < first + count; i++) {
      const [a, b, c] = [x[i], y[i], z[i]]
      x[i] = m[0] * a + m[1] * b + m[2] * c + m[3] * shift
      y[i] = m[4] * a + m[5] * b + m[6] * c + m[7] * shift
      z[i] = m[8] * a + m[9] * b + m[10] * c + m[11] * shift
    }
  }
}
