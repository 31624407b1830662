import { CORE_COLUMNS, hash3, type Plan, type PlanObject, type PlanSystem, particleStateOf, unit, type World } from '..'
import { column, plan, system, withWorld } from './plans'

export type V = [number, number, number]
/** Runs a system whose particles begin at the given places and speeds, and have so long to live, s. */
export async function runFrom<T>(
  start: { p: V; v?: V; life?: number }[],
  o: Partial<PlanSystem>,
  inspect: (w: World) => T | Promise<T>,
  p: Partial<Plan> = {},
  objects: PlanObject[] = [],
  threads = 1,
): Promise<T> {
  const make = (s: Partial<PlanSystem>) => plan([system({ burst: start.length, ...s, extraColumns: o.extraColumns ?? [] })], objects, p)
  return withWorld(
    make({}),
    (w) => {
      w.step()
      const s = w.save()
      const n = start.length
      const f = new Float32Array(particleStateOf(s, 'system').words.buffer)
      start.forEach(({ p: at, v, life }, i) => {
        if (life) f[CORE_COLUMNS.indexOf('life') * n + i] = life
        for (let a = 0; a < 3; a++) {
          f[a * n + i] = at[a]
          f[(3 + a) * n + i] = v?.[a] ?? 0
        }
      })
      w.load(make(o))
      w.restore(s)
      return inspect(w)
    },
    threads,
  )
}
export const placeIn = (w: World, i = 0): V => {
  const c = w.capture()
  return [column(c, 'px')[i], column(c, 'py')[i], column(c, 'pz')[i]]
}
export const speedIn = (w: World, i = 0): V => {
  const c = w.capture()
  return [column(c, 'vx')[i], column(c, 'vy')[i], column(c, 'vz')[i]]
}
export const allIn = (w: World, names: ['px', 'py', 'pz'] | ['vx', 'vy', 'vz']): V[] => {
  const c = w.capture()
  const [x, y, z] = names.map((n) => column(c, n))
  return [...x].map((v, i) => [v, y[i], z[i]])
}
export const chance = (i: number, c: number, lo = 0, hi = 1, seed = 23): number => lo + (hi - lo) * unit(hash3(seed, i, c))
export const length = (v: readonly number[]): number => Math.hypot(v[0], v[1], v[2])
export const away = (a: readonly number[], b: readonly number[]): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2])
