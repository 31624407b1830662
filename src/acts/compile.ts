import { type Plan, type PlanObject, Poses } from '../engine'
import { loopFrames, type Shot } from '../shot'
import { baseMesh, type Meshes } from './baseMesh'
import { bodiesOf } from './bodies'
import type { CompileContext, CompileProblem } from './compileContext'
import { compileGas } from './compileGas'
import { growthsOf } from './compileGrowth'
import { compileObject } from './compileObject'
import { streaksOf } from './compileStreak'
import { compileSystem } from './compileSystem'
import type { OtherOf } from './copied'
import type { Where } from './forcePlan'
import { keptFrames } from './looping'
import { placedMatrix } from './places'
import { warmFrames } from './touched'
import { tieShot } from './values'

export interface Compiled {
  plan: Plan
  problems: CompileProblem[]
}
/** Turns a checked shot into what the engine runs: ids resolved, values as functions of time. */
export function compile(shot: Shot, meshes: Meshes): Compiled {
  const problems: CompileProblem[] = tieShot(shot)
  const poses = new Poses()
  const where: Where = (o, t, out) => placedMatrix(o, t, (id, s) => poses.at(id, s), out)
  const otherOf: OtherOf = (id) => {
    const object = shot.objects.find((o) => o.id === id && !o.muted)
    return object ? { object, base: baseMesh(object, meshes) } : null
  }
  const objects: PlanObject[] = shot.objects.map((o) => compileObject(shot, o, meshes, where, otherOf, problems))
  const colliders = shot.objects.flatMap((o, i) => (o.roles.collider && !o.muted ? [i] : []))
  const secondsPerFrame = shot.rate.den / shot.rate.num
  const context: CompileContext = {
    ...{ shot, objects, colliders, where, problems, secondsPerFrame },
    secondsPerSubstep: secondsPerFrame / shot.substeps,
    indexOf: (id) => shot.objects.findIndex((o) => o.id === id),
  }
  const plan: Plan = {
    rate: shot.rate,
    first: shot.range.first,
    last: shot.range.last,
    start: shot.range.first - warmFrames(shot),
    ...(shot.loop ? { kept: shot.range.first - keptFrames(shot), loop: loopFrames(shot) ?? 0 } : {}),
    substeps: shot.substeps,
    objects,
    systems: shot.systems.map((s) => compileSystem(context, s)),
    streaks: streaksOf(shot, objects, where),
    growths: growthsOf(shot, objects, where),
    gases: shot.gases.map((g) => compileGas(context, g, meshes, otherOf)),
    ...bodiesOf(shot, objects, colliders, poses, where),
  }
  return { plan, problems }
}
