import { hasColumn, hash3, type PointsPart, pointColumn, tinted, unit } from '../engine'
import { defaultsOf, type LookDoc, looksIn, type Shot, type SystemDoc, sampleCurve, sampleRamp, type Vec3 } from '../shot'
import type { LookAct } from './define'
import type { Drawing } from './drawing'
import { blend } from './looks/blend'
import { dot } from './looks/dot'
import { overLife } from './looks/overLife'
import { readerOf } from './reader'
import { actOfSort } from './registry'

export const LOOK_SAMPLES = 256
/** Per sample of life: red, green, blue, opacity, factor on the size. */
const STRIDE = 5
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
}
/** What counts where a phase has no act of a role. */
const FALLBACK = { values: overLife, draw: dot, blend }
const PLAIN = { shape: 'dot', flake: null, dashS: 0, taper: 0 } as const

/** How the particles of a phase are drawn, by its place among the phases: of acts with the same role, the last one decides. */
export function drawOf(shot: Shot, system: SystemDoc, t: number, phase = 0): Draw {
  const acts = looksIn(system, phase).filter((a) => !a.muted)
  const decided = (role: LookAct['role']): Partial<Drawing> => {
    const doc = acts.findLast((a) => actOfSort(a.kind, 'look').role === role)
    if (doc) return actOfSort(doc.kind, 'look').drawing(readerOf(doc), t, doc.seed)
    const act: LookAct = FALLBACK[role]
    return act.drawing(readerOf({ id: act.kind, kind: act.kind, seed: 0, ...defaultsOf(act.params) }), t, 0)
  }
  const all = { ...PLAIN, ...decided('values'), ...decided('draw'), ...decided('blend') } as Drawing
  return { ...all, look: shot.shared.looks.find((l) => l.id === all.look) ?? WHITE }
}

/** How the particles of each phase are drawn. */
export const drawsOf = (shot: Shot, system: SystemDoc, t: number): Draw[] => system.phases.map((_, i) => drawOf(shot, system, t, i))
/** The different ways in which a system is drawn, each with the phases that are drawn so: those without a look of their own share one. */
export function looksOf(shot: Shot, system: SystemDoc, t: number): { draw: Draw; phases: number[] }[] {
  const groups = new Map<string, number[]>()
  system.phases.forEach((p, i) => {
    const key = p.look.some((a) => !a.muted) ? p.id : ''
    groups.set(key, [...(groups.get(key) ?? []), i])
  })
  return [...groups.values()].map((phases) => ({ draw: drawOf(shot, system, t, phases[0]), phases }))
}

const tables = new WeakMap<LookDoc, Float32Array>()
/** The look as a table over life, which the stage samples as a texture and exporters sample here, both linearly. */
export function lookTable(look: LookDoc): Float32Array {
  const known = tables.get(look)
  if (known) return known
  const out = new Float32Array(LOOK_SAMPLES * STRIDE)
  for (let i = 0; i < LOOK_SAMPLES; i++) {
    const x = i / (LOOK_SAMPLES - 1)
    out.set([...sampleRamp(look.colour, x), sampleCurve(look.opacity, x), sampleCurve(look.size, x)], i * STRIDE)
  }
  tables.set(look, out)
  return out
}
/** Red, green, blue, opacity and factor on the size at a place of a table, 0 to 1. */
export function sampleLook(table: Float32Array, at: number): number[] {
  const x = Math.min(1, Math.max(0, at)) * (LOOK_SAMPLES - 1)
  const i = Math.min(LOOK_SAMPLES - 2, Math.floor(x))
  const f = x - i
  return [0, 1, 2, 3, 4].map((k) => table[i * STRIDE + k] * (1 - f) + table[(i + 1) * STRIDE + k] * f)
}
const curves = new WeakMap<LookDoc, Float32Array>()
/** The look's factor on the size alone, over life. */
export function sizeCurve(look: LookDoc): Float32Array {
  let out = curves.get(look)
  if (!out) {
    const table = lookTable(look)
    curves.set(look, (out = Float32Array.from({ length: LOOK_SAMPLES }, (_, i) => table[i * STRIDE + 4])))
  }
  return out
}
export interface Drawn {
  size: number
  colour: Vec3
  opacity: number
}
/** What one particle looks like; `tint`: the colour that it took over. The GPU does the same in stage/shaders. */
export function particleLook(d: Draw, age: number, life: number, seed: number, tint = 0): Drawn {
  const [r, g, b, opacity, size] = sampleLook(lookTable(d.look), life > 0 ? age / life : 1)
  const vary = d.sizeVary * (unit(hash3(d.sizeSeed, seed, 20)) * 2 - 1)
  return {
    size: Math.max(0, d.size + vary) * size,
    colour: (tint ? tinted([r, g, b], tint) : [r, g, b]).map((c) => c * d.brightness) as Vec3,
    opacity: opacity * d.opacity,
  }
}
/**
 * What each particle of a part looks like, by its place: in the look of its phase, on the way there from that of the one before, and in the
 * size that turns gave it. `blends`: seconds over which each phase sets in.
 */
export function partLooks(part: PointsPart, draws: readonly Draw[], blends: readonly number[]): (i: number) => Drawn {
  const [age, life, seed, phase] = (['age', 'life', 'seed', 'phase'] as const).map((n) => pointColumn(part, n))
  const more = (n: 'size' | 'phaseStart' | 'phaseFrom' | 'tint') => (hasColumn(part, n) ? pointColumn(part, n) : null)
  const [size, start, from, tint] = [more('size'), more('phaseStart'), more('phaseFrom'), more('tint')]
  return (i) => {
    const own = (k: number) => particleLook(draws[k] ?? draws[0], age[i], life[i], seed[i], tint?.[i])
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
    }
  }
}
