import { hasColumn, hash3, identity, type Matrix, type Part, type PointsPart, pointColumn, tinted, unit } from '../engine'
import { type ActDoc, defaultsOf, type LookDoc, looksIn, type Shot, type SystemDoc, type Vec3 } from '../shot'
import { askedOf } from './asks'
import type { LookAct } from './define'
import type { Drawing, ReliefDrawing } from './drawing'
import { blend } from './looks/blend'
import { dot } from './looks/dot'
import { overLife } from './looks/overLife'
import { lookTable, sampleLook } from './lookTables'
import { applyMappings, type MappedParticle, type Mapping, MOST_MAPPINGS, resolveMapping } from './mapped'
import type { ShapeMapping } from './particleShapes'
import { readerOf } from './reader'
import { actOf, actOfSort } from './registry'
import { drawnPlaces, MOST_RELIEFS } from './reliefs'

const WHITE: LookDoc = {
  id: '',
  name: 'plain white',
  colour: { stops: [{ at: 0, colour: [1, 1, 1] }] },
  size: { points: [{ at: 0, v: 1 }] },
  opacity: { points: [{ at: 0, v: 1 }] },
}

/** How a system is drawn at a moment: what the stage and the exporters read. */
export interface Draw extends Omit<Drawing, 'look'> {
  look: LookDoc
  /** What changes the look of each particle, in order. */
  mappings: Mapping[]
  /** Where each particle is drawn, in order. */
  reliefs: ReliefDrawing[]
  /** What of the shape of its body is each particle's own. */
  shapes: ShapeMapping[]
}
/** What counts where a phase has no act of a role. */
const FALLBACK = { values: overLife, draw: dot, blend }
const PLAIN = { shape: 'dot', flake: null, tuft: null, solid: null, sprite: null, dashS: 0, taper: 0, meets: 0 } as const

/**
 * How the particles of a phase are drawn, by its place among the phases: of acts with the same role, the last one decides; mappings all count.
 * `parts`: where a frame has objects that were thrown.
 */
export function drawOf(shot: Shot, system: SystemDoc, t: number, phase = 0, parts: readonly Part[] = []): Draw {
  const acts = looksIn(system, phase).filter((a) => !a.muted)
  const asked = (role: keyof typeof FALLBACK): Partial<Drawing> | undefined => {
    const doc = acts.findLast((a) => actOfSort(a.kind, 'look').role === role)
    return doc && actOfSort(doc.kind, 'look').drawing(readerOf(doc), t, doc.seed)
  }
  const usual = (role: keyof typeof FALLBACK): Partial<Drawing> => {
    const act: LookAct = FALLBACK[role]
    return act.drawing(readerOf({ id: act.kind, kind: act.kind, seed: 0, ...defaultsOf(act.params) }), t, 0)
  }
  // How it is drawn may say how it blends, unless a card does.
  const drawn = [usual('blend'), asked('draw') ?? usual('draw'), asked('blend')]
  const all = Object.assign({ ...PLAIN }, asked('values') ?? usual('values'), ...drawn) as Drawing
  const mappings = acts.flatMap((doc) => actOfSort(doc.kind, 'look').mapping?.(readerOf(doc), doc.seed, t) ?? [])
  const reliefs = acts.flatMap((doc) => actOfSort(doc.kind, 'look').relief?.(readerOf(doc), doc.seed, t) ?? [])
  const shapes = acts.flatMap((doc) => actOfSort(doc.kind, 'look').shape?.(readerOf(doc), doc.seed, t) ?? [])
  return {
    ...all,
    shapes: shapes.flatMap((m) => (m.value ? [{ by: resolveMapping(shot, m, t, parts), value: m.value, step: m.step }] : [])),
    reliefs: reliefs.slice(0, MOST_RELIEFS),
    look: shot.shared.looks.find((l) => l.id === all.look) ?? WHITE,
    mappings: mappings.slice(0, MOST_MAPPINGS).map((m) => resolveMapping(shot, m, t, parts)),
  }
}

/** The later card of the same list that decides instead of one of the look; undefined: it counts. */
export function overruledBy(acts: readonly ActDoc[], id: string): ActDoc | undefined {
  const at = acts.findIndex((a) => a.id === id)
  const own = at < 0 ? undefined : actOf(acts[at].kind)
  if (own?.sort !== 'look' || own.role === 'mapping' || own.role === 'relief' || acts[at].muted) return undefined
  return acts.slice(at + 1).findLast((a) => !a.muted && actOfSort(a.kind, 'look').role === own.role)
}
/** How the particles of each phase are drawn. */
export const drawsOf = (shot: Shot, system: SystemDoc, t: number, parts: readonly Part[] = []): Draw[] =>
  system.phases.map((_, i) => drawOf(shot, system, t, i, parts))
/** The different ways in which a system is drawn, each with the phases that are drawn so: those without a look of their own share one. */
export function looksOf(shot: Shot, system: SystemDoc, t: number, parts: readonly Part[] = []): { draw: Draw; phases: number[] }[] {
  const groups = new Map<string, number[]>()
  system.phases.forEach((p, i) => {
    const key = p.look.some((a) => !a.muted) ? p.id : ''
    groups.set(key, [...(groups.get(key) ?? []), i])
  })
  return [...groups.values()].map((phases) => ({ draw: drawOf(shot, system, t, phases[0], parts), phases }))
}

export const reliefsOf = (draws: readonly Draw[]): ReliefDrawing[][] => draws.map((d) => d.reliefs)

/** Of each phase how it is drawn, from the different ways of a system. */
export const drawsByPhase = (looks: readonly { draw: Draw; phases: number[] }[], phases: number): Draw[] =>
  Array.from({ length: phases }, (_, i) => (looks.find((l) => l.phases.includes(i)) ?? looks[0]).draw)

export interface Drawn {
  size: number
  colour: Vec3
  opacity: number
  /** °, about its own Y. */
  turn: number
  /** × its length. */
  stretch: number
}
/** What one particle looks like but for mappings, with its brightness apart. */
function plainLook(d: Draw, age: number, life: number, seed: number, tint: number) {
  const [r, g, b, opacity, size] = sampleLook(lookTable(d.look), life > 0 ? age / life : 1)
  const vary = d.sizeVary * (unit(hash3(d.sizeSeed, seed, 20)) * 2 - 1)
  return {
    size: Math.max(0, d.size + vary) * size,
    colour: (tint ? tinted([r, g, b], tint) : [r, g, b]) as Vec3,
    brightness: d.brightness,
    opacity: opacity * d.opacity,
    ...{ softness: d.softness, turn: 0, stretch: 1, picture: 0 },
  }
}
const shining = ({ size, colour, brightness, opacity, turn, stretch }: ReturnType<typeof plainLook>): Drawn => ({
  ...{ size, opacity, turn, stretch },
  colour: colour.map((c) => c * brightness) as Vec3,
})
/** What one particle looks like, but for its mappings; `tint`: the colour that it took over. The GPU does the same in stage/shaders. */
export const particleLook = (d: Draw, age: number, life: number, seed: number, tint = 0): Drawn =>
  shining(plainLook(d, age, life, seed, tint))
/** What one particle looks like, with its mappings. `matrix`: of its system into the shot. */
export const mappedLook = (d: Draw, p: MappedParticle, matrix: Matrix, tint = 0): Drawn =>
  shining(applyMappings(d.mappings, p, matrix, plainLook(d, p.age, p.life, p.seed, tint)))
/**
 * What each particle of a part looks like, by its place: in the look of its phase, on the way there from that of the one before, and in the
 * size that turns gave it. `blends`: seconds over which each phase sets in; `matrix`: of the system into the shot, for mappings.
 */
export function partLooks(
  part: PointsPart,
  draws: readonly Draw[],
  blends: readonly number[],
  matrix: Matrix = identity(),
): (i: number) => Drawn {
  const [age, life, seed, phase] = (['age', 'life', 'seed', 'phase'] as const).map((n) => pointColumn(part, n))
  const [vx, vy, vz] = (['vx', 'vy', 'vz'] as const).map((n) => pointColumn(part, n))
  const at = drawnPlaces(part, reliefsOf(draws))
  const more = (n: 'size' | 'phaseStart' | 'phaseFrom' | 'tint') => (hasColumn(part, n) ? pointColumn(part, n) : null)
  const [size, start, from, tint] = [more('size'), more('phaseStart'), more('phaseFrom'), more('tint')]
  return (i) => {
    const own = (k: number) => {
      const draw = draws[k] ?? draws[0]
      if (!draw.mappings.length) return particleLook(draw, age[i], life[i], seed[i], tint?.[i])
      const [place, velocity]: Vec3[] = [
        [at.x[i], at.y[i], at.z[i]],
        [vx[i], vy[i], vz[i]],
      ]
      const asked = (name: string) => askedOf(part, name)?.[i]
      const p = { age: age[i], life: life[i], seed: seed[i], place, velocity, phaseStart: start?.[i], asked }
      return mappedLook(draw, p, matrix, tint?.[i])
    }
    const now = own(phase[i])
    if (size) now.size *= 1 + size[i]
    const blend = blends[phase[i]] ?? 0
    if (!start || !from || !(blend > 0) || from[i] === phase[i]) return now
    const b = Math.min(1, Math.max(0, (age[i] - start[i]) / blend))
    if (b === 1) return now
    const before = own(from[i])
    if (size) before.size *= 1 + size[i]
    const mix = (x: number, y: number) => x + (y - x) * b
    return {
      size: mix(before.size, now.size),
      colour: before.colour.map((x, k) => mix(x, now.colour[k])) as Vec3,
      opacity: mix(before.opacity, now.opacity),
      turn: mix(before.turn, now.turn),
      stretch: mix(before.stretch, now.stretch),
    }
  }
}
