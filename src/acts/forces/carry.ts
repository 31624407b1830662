import {
  encodeCarry,
  encodeEndLimits,
  encodeGravity,
  encodeLimitWake,
  encodeTurbulence,
  encodeWakeFlow,
  invert,
  type Matrix,
  multiply,
  OpWriter,
} from '../../engine'
import { choice, number, type Params, ref, type Vec3, vector } from '../../shot'
import { defineForce, say, word } from '../define'
import type { Reads } from '../reader'
import { eddyParams, renewed } from './eddies'
import { falloffOf, falloffParam, halves, placeParams } from './placed'
import { shareParams } from './share'
import { wakeOf } from './wakeOf'

const MADE = { noise: 'eddies', wake: 'a wake' }
const axis = (label: string, what: string) =>
  number({
    label,
    unit: 'm/s',
    default: 1,
    empty: 'any speed',
    min: 0,
    soft: [0, 5],
    animated: true,
    help: `The most that flows ${what} the box, by its own directions; 0 shuts it off.`,
  })

/** What flows in the box. */
const flowParams = {
  flow: vector({
    label: 'Steady flow',
    unit: 'm/s',
    default: [0, 0, 0],
    animated: true,
    help: 'Flows everywhere in the box, beside the rest.',
  }),
  strength: number({
    label: 'Eddies',
    unit: 'm/s',
    default: 1,
    min: 0,
    soft: [0, 10],
    animated: true,
    help: 'Speed of the coarsest eddies; in a wake never faster than what the object drags along.',
  }),
  ...eddyParams(0.6, 0.4),
  mover: ref({
    when: { param: 'made', is: ['wake'] },
    label: 'Wake of',
    to: 'object',
    default: null,
    empty: 'none yet',
    help: 'Of a wake: the object that makes it; it may be unseen.',
  }),
  drags: number({
    when: { param: 'made', is: ['wake'] },
    label: 'Drags along',
    unit: '%',
    default: 60,
    min: 0,
    max: 1000,
    soft: [0, 150],
    animated: true,
    help: 'Of a wake: share of the object’s own velocity.',
  }),
  thickness: number({
    when: { param: 'made', is: ['wake'] },
    label: 'Thickness',
    unit: 'm',
    default: 0.3,
    min: 0,
    soft: [0, 2],
    animated: true,
    help: 'Of a wake: how far it reaches beyond the object.',
  }),
  decay: number({
    when: { param: 'made', is: ['wake'] },
    label: 'Halves in',
    unit: 's',
    default: 0.8,
    min: 0.01,
    soft: [0.1, 5],
    animated: true,
    help: 'Of a wake: after this long half of it is left at a place.',
  }),
  falloff: { ...falloffParam, when: { param: 'made', is: ['wake'] }, help: 'Of a wake: how it falls from its middle outwards.' },
} satisfies Params
/**
 * A velocity volume: air that flows in a box, kept at the nodes of a grid that all systems share. It carries
 * particles, or pushes them. What flows is noise without divergence (as turbulence), or the wake of an object (as wake), and a steady flow.
 */
export const carry = defineForce({
  kind: 'carry',
  title: 'Velocity volume',
  help: 'A box of flowing air on a grid, made of eddies or of an object’s wake; it carries particles or pushes them.',
  synonyms: ['velocity field', 'advect', 'flow field', 'vector field'],
  movesGas: true,
  params: {
    made: choice({
      label: 'Flows',
      default: 'noise',
      options: [
        { value: 'noise', label: 'eddies', help: 'Noise that keeps particles spread.' },
        { value: 'wake', label: 'a wake', help: 'What an object sets in motion where it passes.' },
      ],
      help: 'What its flow is made of.',
    }),
    mode: choice({
      label: 'Mode',
      default: 'carry',
      options: [
        { value: 'carry', label: 'carries', help: 'Leads particles to its velocity; at a response of 0 it sets it.' },
        { value: 'push', label: 'pushes', help: 'Adds its velocity once in each response time; particles go on by themselves.' },
      ],
      help: 'Carry leads particles to its velocity, push adds to theirs.',
    }),
    ...placeParams,
    size: vector({
      label: 'Size',
      unit: 'm',
      default: [2, 2, 2],
      min: 0.001,
      animated: true,
      help: 'Whole width, height and depth of the box.',
    }),
    soft: number({
      label: 'Soft edge',
      unit: 'm',
      default: 0.3,
      min: 0,
      soft: [0, 1],
      animated: true,
      help: 'From nothing at its sides to all of it this far inside.',
    }),
    cells: number({
      label: 'Cells',
      unit: '',
      default: 32,
      min: 2,
      max: 160,
      soft: [8, 96],
      integer: true,
      help: 'Along its longest side. Eddies smaller than two cells are lost.',
    }),
    ...flowParams,
    maxX: axis('Across', 'across'),
    maxY: axis('Up, down', 'up and down in'),
    maxZ: axis('Along', 'along'),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.1,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How long particles take to follow.',
    }),
    ...shareParams,
  },
  handles: [{ kind: 'place', param: 'place' }],
  outlines: (p, t) => [{ shape: 'box', middle: p.vector('place', t), half: halves(p.vector('size', t)) }],
  sentence: (p) => [
    ...say`A box of ${'size'} with ${word(MADE[p.choice('made') as 'noise'], 'made')}`,
    ...(p.choice('made') === 'wake'
      ? say` of ${'mover'}, which ${word(p.choice('mode') === 'push' ? 'pushes' : 'carries', 'mode')} by ${'drags'} of its speed, halves in ${'decay'}.`
      : say` up to ${'strength'} ${word(p.choice('mode') === 'push' ? 'pushes' : 'carries', 'mode')}, ${'eddy'} wide, on ${'cells'} cells.`),
  ],
  needs: (p) => (p.choice('made') === 'wake' && p.text('mover') === null ? 'has no object yet whose wake flows in it: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const out = multiply(site.from(p.text('object'), t), shifted(p.vector('place', t)))
    const into = invert(out)
    const size = p.vector('size', t)
    const half = size.map((v) => v / 2) as Vec3
    const cell = Math.max(...size) / Math.round(p.number('cells'))
    if (!into || !(cell > 0)) return
    const flow = new OpWriter()
    flowOf(
      flow,
      p.choice('made') === 'wake',
      p,
      t,
      seed,
      (id, s) => multiply(into, site.from(id, s)),
      site.box(p.text('mover')),
      site.index(p.text('mover')) >= 0,
    )
    if (!flow.count) return
    const maximum = (['maxX', 'maxY', 'maxZ'] as const).map((name) => p.optional(name, t) ?? Number.POSITIVE_INFINITY) as [
      number,
      number,
      number,
    ]
    encodeCarry(
      w,
      {
        flow,
        half,
        cell,
        soft: p.number('soft', t),
        pushes: p.choice('mode') === 'push',
        responseS: p.number('response', t),
        max: maximum,
        into,
        out,
      },
      seed,
      share,
    )
  },
})
const shifted = ([x, y, z]: Vec3): Matrix => Float64Array.from([1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z])

/** What flows, in the box's own space. */
function flowOf(
  made: OpWriter,
  isWake: boolean,
  p: Reads<typeof flowParams>,
  t: number,
  seed: number,
  from: (id: string | null, s: number) => Matrix,
  box: Parameters<typeof wakeOf>[0],
  there: boolean,
): void {
  const flow = p.vector('flow', t)
  if (flow.some((v) => v !== 0)) encodeGravity(made, flow)
  const eddies = { carry: false, eddy: p.number('eddy', t), octaves: p.number('octaves'), ...renewed(p, t), responseS: 0 }
  if (!isWake) {
    const strength = p.number('strength', t)
    if (strength > 0) encodeTurbulence(made, { ...eddies, strength }, seed)
    return
  }
  if (!there) return
  const id = p.text('mover')
  const wake = wakeOf(box, (s) => from(id, s), t, {
    drags: p.number('drags', t) / 100,
    decay: p.number('decay', t),
    thickness: p.number('thickness', t),
  })
  if (!wake) return
  const o = { places: wake.places, radius: wake.radius, falloff: falloffOf(p, t) }
  encodeWakeFlow(made, o)
  const strength = Math.min(p.number('strength', t), (wake.fastest * p.number('drags', t)) / 100)
  if (!(strength > 0)) return
  encodeLimitWake(made, o)
  encodeTurbulence(made, { ...eddies, strength }, seed)
  encodeEndLimits(made)
}
