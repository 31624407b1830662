import { Notices, STRIP_COLUMNS, STRIP_POINT_COLUMNS, type StripsPart, stripColumn, stripOffsets, stripPoints, stripWords } from '../frame'
import type { Mesh } from '../geometry'
import { hash3, identity } from '../math'
import { type Machine, wasStopped } from '../memory'
import type { PlanGrowth, PlanObject, StepTime } from '../plan'
import type { Flow, GrownSites, Solver, SolverState, Substep, Take } from '../solver'
import { Forest, type Grown, type GrowthRegion } from './forest'
import { grow } from './grow'
import { type Lander, type Landing, Landings, startOf } from './landings'
import { placer } from './placer'
import { grownSites, metresGrown } from './sites'
import { amountOn } from './starts'
import { WalkableMesh } from './walk'

/** What has grown on a mesh by which parameters: a World that is loaded again does not grow it again. */
const known = new WeakMap<Mesh, { surface: WalkableMesh; grown: Map<string, Grown> }>()
const KEPT = 4
/** Of the bits of numbers (Fowler, Noll and Vo's hash, by words). */
function markOf(numbers: Float32Array): number {
  let h = 0x811c9dc5
  for (const word of new Uint32Array(numbers.buffer, numbers.byteOffset, numbers.length)) h = Math.imul(h ^ word, 0x01000193)
  return h
}
function knownOf(mesh: Mesh) {
  let on = known.get(mesh)
  if (!on) known.set(mesh, (on = { surface: new WalkableMesh(mesh), grown: new Map() }))
  return on
}
const regionOf = ({ region }: PlanGrowth): GrowthRegion | null => (region ? { ...region, amounts: region.amounts() } : null)
function grownOn(mesh: Mesh, plan: PlanGrowth, stopped?: () => boolean): Grown {
  const on = knownOf(mesh)
  const region = regionOf(plan)
  const key = JSON.stringify([plan.seed, plan.params, region && [region.edge, region.reach, markOf(region.amounts)]])
  const old = on.grown.get(key)
  if (old) return old
  const made = grow(on.surface, plan.params, plan.seed, region, stopped)
  on.grown.set(key, made)
  for (const k of on.grown.keys()) if (on.grown.size > KEPT) on.grown.delete(k)
  return made
}

const NOTHING: Grown = {
  ...{ offsets: [0], generations: [], seeds: [], since: [], triangles: [], b1: [], b2: [], times: [], metres: [] },
  ...{ lasts: 0, stopped: null },
}
interface GrowthState extends SolverState {
  landings?: readonly Landing[]
}
const LANDING_BYTES = 96

/**
 * Lines that grow over an object. All of them are found once, with the moment at which growth comes to each of their points; a frame shows what has
 * grown up to a moment, so that growth can be scrubbed, held and run back. They ride along: a point is a place within a triangle, wherever that is.
 * Where particles begin them, those of each are found when it has landed; they change nothing of what was there.
 */
export class Growth implements Solver {
  readonly gives: readonly Flow[] = []
  readonly takes: readonly Take[]
  readonly id: string
  private readonly messages: Notices
  private grown: Grown | null = null
  private readonly landings: Landings | null
  /** What has grown from those who landed, and from whom. */
  private forest: { of: readonly Landing[]; lines: Forest } | null = null

  constructor(
    private readonly plan: PlanGrowth,
    private readonly object: PlanObject,
    private readonly machine: Machine,
    /** The system whose particles begin its lines, of one that has any. */
    lander: Lander | undefined,
    private readonly frameOf: (t: number) => number,
  ) {
    this.id = `growth ${plan.id}`
    this.messages = new Notices(object.id)
    this.landings = plan.from && lander ? new Landings(machine, plan.from, lander, plan.params.lines) : null
    this.takes = this.landings ? [{ flow: 'points', when: 'before' }] : []
  }
  get notices() {
    return this.messages.all
  }
  beginAgain(): void {
    this.landings?.restore([])
  }
  prepare(substep: Substep): void {
    // Without particles it depends on the moment alone. Before it begins nobody begins a line.
    const { seconds, share } = this.plan.progress(substep.at.t0)
    if (this.landings && (share !== null || seconds >= 0)) this.landings.look(substep, this.plan.object, this.plan.scale ?? 1)
  }
  step(): void {
    this.landings?.take()
    // Here and not when a frame is captured: a step can be stopped.
    const { mesh } = this.object
    if (mesh?.indices.length) this.grownOn(mesh, this.stopped)
  }
  private readonly stopped = () => wasStopped(this.machine.heap)
  private grownOn(mesh: Mesh, stopped?: () => boolean): Grown {
    if (!this.landings) return (this.grown ??= grownOn(mesh, this.plan, stopped))
    const { all } = this.landings
    if (this.forest?.of === all) return this.forest.lines
    // Nearly always only some have come since. Until it is whole it is none.
    const before = this.forest?.of.every((l, k) => l === all[k]) ? this.forest : null
    const lines = before?.lines ?? new Forest(knownOf(mesh).surface, this.plan.params, regionOf(this.plan))
    this.forest = null
    const { seed, from, region } = this.plan
    const amounts = region && amountOn(knownOf(mesh).surface, region.amounts())
    for (const l of all.slice(before?.of.length ?? 0)) {
      const { triangle, b0, b1, b2 } = l.place
      if (amounts && amounts(triangle, b0, b1, b2) < (region?.edge ?? 0)) continue
      const { seconds, share } = this.plan.progress(l.t)
      lines.add([startOf(l, hash3(seed, l.id, 83), { ahead: !!from?.ahead, at: share === null ? seconds : 0 })], stopped)
    }
    this.forest = { of: all, lines }
    return lines
  }
  /** Seconds of growth at a time of the shot. */
  private untilAt(g: Grown, t: number): number {
    const { share, seconds } = this.plan.progress(t)
    return share === null ? seconds : share * g.lasts
  }
  /** Its object, by its place in the plan: births may start from what grows on it. */
  get growsOn(): number {
    return this.plan.object
  }
  /** Where they may, as the substep begins; null: nowhere now. */
  sites(on: 'tips' | 'lines', at: StepTime): GrownSites | null {
    const { mesh, shape } = this.object
    if (!mesh?.indices.length) return null
    const g = this.grownOn(mesh, this.stopped)
    return grownSites(g, on, { mesh, shape }, at, (t) => this.untilAt(g, t))
  }
  /** Metres, of the shot, that all its lines have grown to at t (s). */
  metres(t: number): number {
    const { mesh } = this.object
    if (!mesh?.indices.length) return 0
    const g = this.grownOn(mesh, this.stopped)
    return metresGrown(g, this.untilAt(g, t), t) * (this.plan.scale ?? 1)
  }
  capture(t: number): StripsPart[] {
    const { mesh } = this.object
    if (!mesh?.indices.length) return []
    // Where nothing can have grown yet nothing is looked for: that would be done in a capture, which is not stopped. What a step has found says
    // its limits, whether it is seen or not.
    const { seconds, share } = this.plan.progress(t)
    const isFound = this.grown !== null || (this.forest !== null && this.forest.of === this.landings?.all)
    const g = (share ?? seconds) > 0 || isFound ? this.grownOn(mesh) : NOTHING
    if (g.stopped) this.messages.add('limit', this.frameOf(t), `${this.plan.name}: ${g.stopped}`)
    const until = this.untilAt(g, t)
    const [lines, points] = count(g, until, t)
    const data = new ArrayBuffer(stripWords(lines, points) * 4)
    const part: StripsPart = { kind: 'strips', element: this.object.id, act: this.plan.id, strips: lines, points, data }
    this.fill(part, g, until, t, mesh)
    return [part]
  }
  private fill(part: StripsPart, g: Grown, until: number, t: number, mesh: Mesh): void {
    const offsets = stripOffsets(part)
    const strip = Object.fromEntries(STRIP_COLUMNS.map((n) => [n, stripColumn(part, n)]))
    const point = Object.fromEntries(STRIP_POINT_COLUMNS.map((n) => [n, stripPoints(part, n)]))
    const place = placer(mesh, this.object.shape?.(t) ?? mesh.positions, this.object.matrix(t, identity()), this.plan.lift)
    const [a, b] = [new Float64Array(3), new Float64Array(3)]
    let [k, n] = [0, 0]
    for (let line = 0; line < g.generations.length; line++) {
      const [from, to] = [g.offsets[line], g.offsets[line + 1]]
      if (to - from < 2 || !(g.times[from] < until) || g.since[line] > t) continue
      offsets[k] = n
      strip.id[k] = line
      strip.seed[k] = g.seeds[line]
      strip.phase[k] = g.generations[line]
      strip.life[k] = 1
      strip.fade[k] = 1
      const first = n
      const reach = g.metres[to - 1]
      let tip = 0
      for (let i = from; i < to; i++) {
        place(g.triangles[i], g.b1[i], g.b2[i], a)
        let s = g.metres[i]
        if (g.times[i] > until) {
          // The tip lies between two points.
          const f = (until - g.times[i - 1]) / (g.times[i] - g.times[i - 1])
          place(g.triangles[i - 1], g.b1[i - 1], g.b2[i - 1], b)
          for (let q = 0; q < 3; q++) a[q] = b[q] + (a[q] - b[q]) * f
          s = g.metres[i - 1] + (s - g.metres[i - 1]) * f
        }
        point.px[n] = a[0]
        point.py[n] = a[1]
        point.pz[n] = a[2]
        point.metres[n++] = tip = s
        if (g.times[i] > until) break
      }
      for (let i = first; i < n; i++) point.along[i] = reach > 0 ? Math.min(1, (tip - point.metres[i]) / reach) : 0
      k++
    }
    offsets[k] = n
  }
  save(): GrowthState {
    const landings = this.landings?.all
    return { bytes: (landings?.length ?? 0) * LANDING_BYTES, landings }
  }
  restore(state: GrowthState): void {
    this.landings?.restore(state.landings ?? [])
  }
  get bytes(): number {
    return 0
  }
  dispose(): void {
    this.grown = null
    this.forest = null
  }
}
/** How many lines have begun by a moment of growth and of the shot, and how many points they show. */
function count(g: Grown, until: number, t: number): [number, number] {
  let [lines, points] = [0, 0]
  for (let line = 0; line < g.generations.length; line++) {
    const [from, to] = [g.offsets[line], g.offsets[line + 1]]
    if (to - from < 2 || !(g.times[from] < until) || g.since[line] > t) continue
    lines++
    let i = from
    while (i < to && g.times[i] <= until) i++
    points += Math.min(to, i + 1) - from
  }
  return [lines, points]
}
