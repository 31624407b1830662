import type { GasFeed, GasParams, Matrix, PlanGas } from '../engine'
import { type ActDoc, type GasDoc, type Shot, sampleNumber } from '../shot'
import type { Meshes } from './baseMesh'
import type { CompileContext } from './compileContext'
import type { OtherOf } from './copied'
import { isFog } from './fogs'
import { forcePlan, seedOf, unmuted } from './forcePlan'
import { forceSite } from './forceSite'
import { dyesOf } from './gasDyes'
import { goneBy } from './places'
import { readerOf } from './reader'
import { referencesIn } from './references'
import { actOf, actOfSort } from './registry'
import { fedByFiles, storedOf } from './storedGas'
import { recordsOf } from './walk'

/** A gas that nothing lifts, curls, cools or burns. */
const STILL: GasParams = {
  ...{ lift: 0, weight: 0, vorticity: 0, cooling: 0, densityHalf: null, heatHalf: null, dyeHalf: [null, null] },
  ...{ ignition: Number.MAX_VALUE, burnRate: 0, heat: 0, soot: 0, expansion: 0, flameLife: 0.1 },
}
/** Whether particles, or forces on them, name a gas in more than their looks. */
const isAsked = (shot: Shot, id: string): boolean =>
  [...shot.systems.flatMap((s, i) => recordsOf('systems', s, i)), ...shot.forces.flatMap((f, i) => recordsOf('forces', f, i))].some(
    (r) => r.sort !== 'look' && referencesIn(r).some((x) => x.id === id),
  )
/** A fog is no matter of voxels. */
const NOTHING: PlanGas['stored'] = () => ({ key: '', copies: [] })
/** Gases with what comes into them and what moves them. */
export function compileGas(c: CompileContext, g: GasDoc, meshes: Meshes, otherOf: OtherOf): PlanGas {
  const { shot } = c
  const motion = g.muted ? [] : unmuted(g.motion)
  const burning = g.muted ? [] : unmuted(g.burning)
  const flows = [...motion.filter((a) => actOf(a.kind).sort === 'flow'), ...burning]
  const ofShot = g.muted ? [] : shot.forces.filter((f) => !f.muted && movesGas(f.act) && (f.reaches === 'all' || f.reaches.includes(g.id)))
  const left = new Map(ofShot.map((f) => [f.act, f.shares.find((x) => x.system === g.id)?.share ?? 100]))
  const site = forceSite(shot, { id: g.id, space: null }, c.objects, c.where)
  if (!g.muted) reportNeeds(c, g, motion)
  const dyes = dyesOf(g)
  const fed = g.muted ? [] : fedByFiles(c, g, meshes, otherOf)
  const stored = storedOf(c, g, meshes, otherOf) ?? (isFog(g) ? NOTHING : null)
  const forces = [...ofShot.map((f) => f.act), ...motion.filter((a) => actOf(a.kind).sort === 'force')]
  return {
    id: g.id,
    name: g.name,
    seed: g.seed,
    voxel: g.voxel,
    low: [0, 1, 2].map((a) => g.place[a] - g.size[a] / 2) as [number, number, number],
    size: g.size,
    open: [g.openLeft, g.openRight, g.openBelow, g.openAbove, g.openBack, g.openFront],
    burns: burning.length > 0,
    ...(dyes.length ? { dyes } : {}),
    steps: g.steps,
    ...(g.stepping === 'fixed' ? { fixedSteps: true } : {}),
    ...(g.detail > 1 ? { detail: { factor: g.detail, strength: (t: number) => sampleNumber(g.eddies, t) / 100 } } : {}),
    ...ridesOf(c, g),
    ...(g.timeScale === 100 ? {} : { timeScale: (t: number) => sampleNumber(g.timeScale, t) / 100 }),
    params: (t) => ({ ...STILL, ...Object.assign({}, ...flows.map((a) => actOfSort(a.kind, 'flow').flow(readerOf(a), t))) }),
    feeds:
      g.muted || stored
        ? []
        : unmuted(g.feeds)
            .filter((a) => !actOfSort(a.kind, 'feed').stored)
            .flatMap((a) => feedPlan(c, g, a)),
    forces: forces.map((a) => forcePlan(shot, g, a, left.get(a) ?? 100, site)),
    solids: c.colliders,
    ...(fed.length ? { fed } : {}),
    ...(stored ? { stored, sampled: isAsked(shot, g.id) } : {}),
  }
}
/** Its room goes along with the place of an object, from where it is as the shot begins. */
function ridesOf(c: CompileContext, g: GasDoc): Pick<PlanGas, 'shift'> {
  const object = c.shot.objects.find((o) => o.id === g.rides)
  return object ? { shift: (t) => goneBy(object, t, c.where) } : {}
}
/** What its own forces still lack. */
function reportNeeds(c: CompileContext, g: GasDoc, motion: readonly ActDoc[]): void {
  for (const a of motion) {
    const act = actOf(a.kind)
    const why = act.sort === 'force' ? act.needs?.(readerOf(a)) : null
    if (why) c.problems.push({ element: g.id, message: `${act.title} ${why}` })
  }
}
/** One that is limited by what only particles have says nothing to a gas. */
const movesGas = (a: ActDoc): boolean => {
  const act = actOf(a.kind)
  return act.sort === 'force' && !!act.movesGas && unmuted(a.limits ?? []).every((l) => actOfSort(l.kind, 'limit').ofPlaces)
}
/** From the space in which a system simulates to the shot. */
function spaceOf(c: CompileContext, system: number): { out?: (t: number) => Matrix } {
  const space = c.shot.objects.find((o) => o.id === c.shot.systems[system].space)
  return space ? { out: (t) => c.where(space, t) } : {}
}
function feedPlan(c: CompileContext, g: GasDoc, a: ActDoc): GasFeed[] {
  const act = actOfSort(a.kind, 'feed')
  const p = readerOf(a)
  const from = act.from(p)
  // One that begins at the first frame has been at it through a warm start.
  const [begins, end] = act.window(p)
  const start = begins <= 0 && !c.shot.loop ? Number.NEGATIVE_INFINITY : begins
  const at =
    'system' in from ? c.shot.systems.findIndex((s) => s.id === from.system && !s.muted) : from.object ? c.indexOf(from.object) : -1
  if (at < 0) {
    if (('system' in from ? from.system : from.object) === null)
      c.problems.push({ element: g.id, message: `${act.title} feeds nothing: choose what it comes from` })
    return []
  }
  if ('object' in from && c.shot.objects[at].muted) return []
  return [
    {
      id: a.id,
      name: `${act.title} of ${g.name}`,
      seed: seedOf(c.shot, g, a),
      from:
        'system' in from
          ? { system: at, ...spaceOf(c, at) }
          : { object: at, skin: from.skin, ...(from.region ? { region: from.region } : {}) },
      // A window that ends within a substep feeds for its part of it.
      active: (t0, t1) => (t1 > t0 ? Math.max(0, Math.min(end, t1) - Math.max(start, t0)) / (t1 - t0) : 0),
      params: (t) => act.feed(p, t),
    },
  ]
}
