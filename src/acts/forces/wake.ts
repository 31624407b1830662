import { apply, type WakePlace } from '../../engine'
import { number, ref, type Vec3 } from '../../shot'
import { defineForce, say } from '../define'
import { falloffOf, falloffParam } from './placed'
import { shareParams } from './share'

/** Places of the past that make up a wake. */
const PLACES = 40
/** Of one what is left at the next: 2^(−6/40), so that the last has a sixty-fourth. */
const LEFT = 0.9012504626108302

/**
 * The wake of a moving object: air that still goes as the object went there, and eddies in it, both dying away. Made anew from the
 * object's own way at every moment, so it is exact at any frame and needs no grid; half of it is left after the decay.
 */
export const wake = defineForce({
  kind: 'wake',
  title: 'Wake',
  help: 'Air that an object has set in motion where it passed, with eddies that die away.',
  params: {
    object: ref({ label: 'Object', to: 'object', default: null, empty: 'none yet', help: 'Whose wake it is; it may be unseen. Only its moving counts.' }),
    strength: number({ label: 'Drags along', unit: '%', default: 60, min: 0, max: 1000, soft: [0, 150], animated: true, help: 'Share of the object’s own velocity that its wake has.' }),
    eddies: number({ label: 'Eddies', unit: '%', default: 50, min: 0, max: 1000, soft: [0, 150], animated: true, help: 'Largest speed of the eddies, as a share of the object’s.' }),
    size: number({ label: 'Eddy size', unit: 'm', default: 0.3, min: 0.001, soft: [0.02, 2], animated: true, help: 'Of the coarsest eddies.' }),
    thickness: number({ label: 'Thickness', unit: 'm', default: 0.3, min: 0, soft: [0, 2], animated: true, help: 'How far the wake reaches beyond the object.' }),
    decay: number({ label: 'Halves in', unit: 's', default: 0.8, min: 0.01, soft: [0.1, 5], animated: true, help: 'After this long half of it is left at a place.' }),
    response: number({ label: 'Response', unit: 's', default: 0.15, min: 0, soft: [0, 2], animated: true, help: 'How long particles take to follow.' }),
    falloff: falloffParam,
    ...shareParams,
  },
  sentence: () => say`The wake of ${'object'} drags along ${'strength'} of its speed, eddies ${'eddies'}, halves in ${'decay'}.`,
  needs: (p) => (p.text('object') === null ? 'has no object yet: choose one' : null),
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const id = p.text('object')
    if (site.index(id) < 0) return
    const box = site.box(id)
    const middle: Vec3 = box ? [(box.min[0] + box.max[0]) / 2, (box.min[1] + box.max[1]) / 2, (box.min[2] + box.max[2]) / 2] : [0, 0, 0]
    const where = (s: number): Vec3 => apply(site.from(id, s), ...middle)
    const decay = p.number('decay', t)
    // Back to where a sixty-fourth is left; each place stands for the way from the one before.
    const step = (6 * decay) / PLACES
    const list: WakePlace[] = []
    let next = where(t), fastest = 0
    let left = 1
    for (let k = 0; k < PLACES; k++, left *= LEFT) {
      const here = where(t - (k + 1) * step)
      const v = next.map((x, a) => (x - here[a]) / step) as Vec3
      const speed = Math.sqrt(v[0] * v[0] + v[1] * v[1] + v[2] * v[2])
      if (speed > 1e-6) list.push({ place: next, velocity: v.map((x) => (x * p.number('strength', t)) / 100) as Vec3, left })
      fastest = Math.max(fastest, speed * left)
      next = here
    }
    if (!list.length) return
    const m = site.from(id, t)
    const size = box ? Math.max(box.max[0] - box.min[0], box.max[1] - box.min[1], box.max[2] - box.min[2]) / 2 : 0
    const scale = Math.sqrt((m[0] * m[0] + m[1] * m[1] + m[2] * m[2] + m[4] * m[4] + m[5] * m[5] + m[6] * m[6] + m[8] * m[8] + m[9] * m[9] + m[10] * m[10]) / 3)
    const radius = Math.max(1e-6, size * scale + p.number('thickness', t))
    const o = { places: list, radius, falloff: falloffOf(p, t), responseS: p.number('response', t) }
    w.wake(o, seed, share)
    const eddies = (fastest * p.number('eddies', t)) / 100
    if (!(eddies > 0)) return
    w.limitWake(o)
    w.turbulence({ carry: true, strength: eddies, eddy: p.number('size', t), octaves: 3, phase: t, responseS: o.responseS }, seed, share)
    w.unlimited()
  },
})
