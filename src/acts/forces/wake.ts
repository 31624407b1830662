import { encodeEndLimits, encodeLimitWake, encodeTurbulence, encodeWake } from '../../engine'
import { number, ref } from '../../shot'
import { defineForce, say } from '../define'
import { falloffOf, falloffParam } from './placed'
import { shareParams } from './share'
import { wakeOf } from './wakeOf'

/**
 * The wake of a moving object: air that still goes as the object went there, and eddies in it, both dying away. Recomputed from the
 * object's own way at every moment, so it is exact at any frame and needs no grid; half of it is left after the decay.
 */
export const wake = defineForce({
  kind: 'wake',
  title: 'Wake',
  help: 'Air that an object has set in motion where it passed, with eddies that die away.',
  synonyms: ['air', 'drag along', 'turbulence behind'],
  movesGas: true,
  params: {
    object: ref({
      label: 'Object',
      to: 'object',
      default: null,
      empty: 'none yet',
      help: 'Whose wake it is; it may be unseen. Only its moving counts.',
    }),
    strength: number({
      label: 'Drags along',
      unit: '%',
      default: 60,
      min: 0,
      max: 1000,
      soft: [0, 150],
      animated: true,
      help: 'Share of the object’s own velocity that its wake has.',
    }),
    eddies: number({
      label: 'Eddies',
      unit: '%',
      default: 50,
      min: 0,
      max: 1000,
      soft: [0, 150],
      animated: true,
      help: 'Largest speed of the eddies, as a share of the object’s.',
    }),
    size: number({
      label: 'Eddy size',
      unit: 'm',
      default: 0.3,
      min: 0.001,
      soft: [0.02, 2],
      animated: true,
      help: 'Of the coarsest eddies.',
    }),
    thickness: number({
      label: 'Thickness',
      unit: 'm',
      default: 0.3,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How far the wake reaches beyond the object.',
    }),
    decay: number({
      label: 'Halves in',
      unit: 's',
      default: 0.8,
      min: 0.01,
      soft: [0.1, 5],
      animated: true,
      help: 'After this long half of it is left at a place.',
    }),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.15,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How long particles take to follow.',
    }),
    falloff: falloffParam,
    ...shareParams,
  },
  sentence: () => say`The wake of ${'object'} drags along ${'strength'} of its speed, eddies ${'eddies'}, halves in ${'decay'}.`,
  needs: (p) => (p.text('object') === null ? 'has no object yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const id = p.text('object')
    if (site.index(id) < 0) return
    const made = wakeOf(site.box(id), (s) => site.from(id, s), t, {
      drags: p.number('strength', t) / 100,
      decay: p.number('decay', t),
      thickness: p.number('thickness', t),
    })
    if (!made) return
    const o = { places: made.places, radius: made.radius, falloff: falloffOf(p, t), responseS: p.number('response', t) }
    encodeWake(w, o, seed, share)
    const eddies = (made.fastest * p.number('eddies', t)) / 100
    if (!(eddies > 0)) return
    encodeLimitWake(w, o)
    encodeTurbulence(
      w,
      { carry: true, strength: eddies, eddy: p.number('size', t), octaves: 3, phase: t, responseS: o.responseS },
      seed,
      share,
    )
    encodeEndLimits(w)
  },
})
