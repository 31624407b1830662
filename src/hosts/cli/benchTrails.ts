import { Columns, Heap, type PlanSystem, SCRATCH, Trails, type TrailsOf } from '../../engine'
import { WORLD_BYTES } from '../../machines/instantiate'
import { nodeKernels } from '../node/kernels'
import { type BenchWorld, xorshift } from './benchWorld'

/** About as many points are in all strips then; a time is scaled to just so many. */
export const STRIP_POINTS = 400_000
/** As in the native reference: so many particles on exact helices, 48 substeps a second, lives of 1 to 3 s, trails of a second. */
export const TRAILS_LIVE = 20_000
const DT = 1 / 48
const SECOND = 48

/** The particles, moved here and not timed: what is timed is what trails make of them. */
class Helices {
  readonly columns: Columns
  private rates = new Float32Array(TRAILS_LIVE)
  private random = xorshift()
  private nextId = 1
  constructor(heap: Heap) {
    this.columns = new Columns(heap, [])
    this.columns.reserve(TRAILS_LIVE)
    this.emit(true)
  }
  private emit(first: boolean): void {
    const { columns: c, random: r } = this
    const from = c.count
    c.count = TRAILS_LIVE
    const col = (n: Parameters<Columns['floats']>[0]) => c.floats(n)
    for (let i = from; i < TRAILS_LIVE; i++) {
      const [a, v] = [r() * 2 * Math.PI, 1 + 2 * r()]
      const place = [r() * 10, r() * 10, r() * 10]
      ;(['px', 'py', 'pz'] as const).forEach((n, k) => {
        col(n)[i] = place[k]
      })
      ;(['sx', 'sy', 'sz'] as const).forEach((n, k) => {
        col(n)[i] = place[k]
      })
      const velocity = [v * Math.cos(a), r() * 2 - 1, v * Math.sin(a)]
      ;(['vx', 'vy', 'vz'] as const).forEach((n, k) => {
        col(n)[i] = velocity[k]
      })
      this.rates[i] = (0.5 + 5 * r()) * (r() < 0.5 ? -1 : 1)
      col('life')[i] = (1 + 2 * r()) * (first ? r() : 1)
      for (const n of ['age', 'phaseStart'] as const) col(n)[i] = 0
      for (const n of ['dead', 'phase'] as const) c.words(n)[i] = 0
      c.words('seed')[i] = this.nextId
      c.words('id')[i] = this.nextId++
    }
  }
  /** Moves all; says whether any died. */
  move(): boolean {
    const { columns: c } = this
    const [x, y, z, u, v, w, age, life] = (['px', 'py', 'pz', 'vx', 'vy', 'vz', 'age', 'life'] as const).map((n) => c.floats(n))
    const dead = c.words('dead')
    let died = false
    for (let i = 0; i < c.count; i++) {
      const h = (this.rates[i] * DT) / 2
      const [cos, sin, chord] = [Math.cos(2 * h), Math.sin(2 * h), (0.5 * DT * Math.tan(h)) / h]
      const [u1, w1] = [cos * u[i] - sin * w[i], sin * u[i] + cos * w[i]]
      x[i] += (u[i] + u1) * chord
      y[i] += v[i] * DT
      z[i] += (w[i] + w1) * chord
      u[i] = u1
      w[i] = w1
      age[i] += DT
      dead[i] = age[i] >= life[i] ? 1 : 0
      died ||= !!dead[i]
    }
    return died
  }
  replace(): void {
    const { columns: c } = this
    const dead = c.words('dead').slice()
    const all = c.names.map((n) => c.words(n))
    let live = 0
    for (let i = 0; i < dead.length; i++) {
      if (dead[i]) continue
      for (const column of all) column[live] = column[i]
      this.rates[live++] = this.rates[i]
    }
    c.count = live
    this.emit(false)
  }
}
/**
 * What is timed: `recorded`, the mean of a second of substeps; `built`, the strips of a frame in the memory of the kernels, where the native
 * reference leaves its own; `framed`, the same with the copy that a frame keeps, in memory of its own.
 */
export async function benchTrails(threads: number, timed: 'recorded' | 'built' | 'framed'): Promise<BenchWorld> {
  const host = await nodeKernels({ threads })
  const heap = new Heap(host.memory, WORLD_BYTES)
  const helices = new Helices(heap)
  const system: TrailsOf = {
    ...{
      id: 'bench',
      element: 'bench',
      columns: helices.columns,
      followers: [],
      stats: { alive: 0, born: 0, died: 0, contacts: 0, with: {} },
    },
    forceWords: new Uint32Array(0),
    otherColumns: () => new Columns(heap, []),
    arm: () => {},
    runJob: () => {},
  }
  const plan: NonNullable<PlanSystem['trails']>[number] = {
    ...{ id: 'trail', name: 'Trail', seed: 1, share: 1, reachVary: 0 },
    params: () => ({ seconds: 1, metres: null, tolerance: 0.004, fade: 10 }),
  }
  const trails = new Trails({ heap, host, scratch: heap.take(SCRATCH.bytes * threads) }, plan, system)
  const at = { t0: 0, t1: 0, dt: DT }
  const substep = (): number => {
    const died = helices.move()
    const start = performance.now()
    trails.follow(helices.columns, at, DT, 0, died)
    const ms = performance.now() - start
    helices.replace()
    return ms
  }
  for (let k = 0; k < 3 * SECOND; k++) substep()
  return {
    reset: () => {},
    step() {
      if (timed !== 'recorded') {
        const start = performance.now()
        const { points } = timed === 'built' ? trails.build(0) : trails.capture(0)[0]
        return ((performance.now() - start) * STRIP_POINTS) / points
      }
      let ms = 0
      for (let k = 0; k < SECOND; k++) ms += substep()
      return ms / SECOND
    },
    dispose: () => host.team.dispose(),
  }
}
