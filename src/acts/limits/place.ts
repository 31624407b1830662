import { type Bounds, encodeLimitNear, encodeLimitShape, invert, type Matrix, multiply } from '../../engine'
import { choice, number, ref, type Vec3, vector } from '../../shot'
import { defineLimit, say, word } from '../define'
import { falloffOf, falloffParam, halves } from '../forces/placed'
import { biasParam, ONLY, sideParam, softParam } from './common'

const SHAPES = { ball: 'a ball', box: 'a box', above: 'the space above' }
const NOWHERE: Matrix = Float64Array.from([0, 0, 0, -1e9, 0, 0, 0, -1e9, 0, 0, 0, -1e9])

/** The middle and half sizes of a box, `beyond` metres larger on each side; a point without one. */
function around(box: Bounds | null, beyond: number): { middle: Vec3; half: Vec3 } {
  if (!box) return { middle: [0, 0, 0], half: [Math.max(0, beyond), Math.max(0, beyond), Math.max(0, beyond)] }
  const { min, max } = box
  return {
    middle: [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, (min[2] + max[2]) / 2],
    half: [
      Math.max(0, (max[0] - min[0]) / 2 + beyond),
      Math.max(0, (max[1] - min[1]) / 2 + beyond),
      Math.max(0, (max[2] - min[2]) / 2 + beyond),
    ],
  }
}

/** Inside a ball, a box or a half space, with a soft edge inside it. */
export const limitPlace = defineLimit({
  kind: 'limitPlace',
  ofPlaces: true,
  title: 'Place',
  help: 'Inside a ball, a box, or above a plane.',
  synonyms: ['falloff', 'region', 'mask', 'volume', 'field'],
  params: {
    shape: choice({
      label: 'Shape',
      default: 'ball',
      options: [
        { value: 'ball', label: 'a ball' },
        { value: 'box', label: 'a box' },
        { value: 'above', label: 'the space above' },
      ],
      help: 'What encloses the place.',
    }),
    place: vector({
      label: 'Place',
      unit: 'm',
      default: [0, 0.5, 0],
      animated: true,
      help: 'The middle; of the space above, a point of its floor.',
    }),
    size: vector({
      label: 'Size',
      unit: 'm',
      default: [2, 2, 2],
      min: 0,
      animated: true,
      help: 'Whole width, height and depth; a ball takes the first as its diameter.',
    }),
    soft: softParam,
    falloff: { ...falloffParam, help: 'How it rises over the soft edge.' },
    bias: biasParam,
    object: ref({ label: 'Parent', to: 'object', default: null, empty: 'the shot', help: 'It is parented to this object.' }),
    side: sideParam,
  },
  sentence: (p) =>
    say`${word(ONLY[p.choice('side')], 'side')} in ${word(SHAPES[p.choice('shape') as 'ball'], 'shape')} at ${'place'}, edge ${'soft'}.`,
  outlines(p, t) {
    const middle = p.vector('place', t)
    const half = halves(p.vector('size', t))
    const shape = p.choice('shape', t)
    if (shape === 'ball') return [{ shape: 'ball', middle, radius: half[0] }]
    // Above a plane: the plane itself.
    return [{ shape: 'box', middle, half: shape === 'above' ? [half[0], 0, half[2]] : half }]
  },
  encode(w, p, at, _seed, site) {
    const t = at.t0
    const into = invert(site.from(p.text('object'), t))
    const [x, y, z] = p.vector('place', t)
    const moved = into && multiply(Float64Array.from([1, 0, 0, -x, 0, 1, 0, -y, 0, 0, 1, -z]), into)
    encodeLimitShape(w, {
      shape: p.choice('shape', t) as 'ball',
      half: halves(p.vector('size', t)),
      soft: p.number('soft', t),
      falloff: falloffOf(p, t),
      bias: p.number('bias', t) / 100,
      outside: p.choice('side') === 'outside',
      into: moved ?? NOWHERE,
    })
  },
})

/** Inside another object's own shape and near it, or inside the ball or box around it; it may move, change shape and be unseen. */
export const limitObject = defineLimit({
  kind: 'limitObject',
  ofPlaces: true,
  title: 'Around an object',
  help: 'Where another object is, or near it.',
  params: {
    object: ref({ label: 'Object', to: 'object', default: null, empty: 'none yet', help: 'The object; it may be unseen.' }),
    shape: choice({
      label: 'As',
      default: 'shape',
      options: [
        { value: 'shape', label: 'its own shape', help: 'Exactly; inside, it must be closed.' },
        { value: 'ball', label: 'a ball', help: 'The ball around its shape.' },
        { value: 'box', label: 'a box', help: 'The box around its shape, in its own metres.' },
      ],
      help: 'Its own shape, or the ball or box around it, which cost less.',
    }),
    beyond: number({
      label: 'Beyond',
      unit: 'm',
      default: 0.2,
      soft: [-1, 2],
      animated: true,
      help: 'How far outside its shape it still goes.',
    }),
    soft: softParam,
    falloff: { ...falloffParam, help: 'How it rises over the soft edge.' },
    bias: biasParam,
    side: sideParam,
  },
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} within ${'beyond'} of ${'object'}.`,
  needs: (p) => (p.text('object') === null ? 'is limited to an object, and none is chosen' : null),
  outlines(p, t, box) {
    const { middle, half } = around(box, p.number('beyond', t))
    // Its own shape is seen anyway: the box around it says where to look.
    return [p.choice('shape', t) === 'ball' ? { shape: 'ball', middle, radius: Math.max(...half) } : { shape: 'box', middle, half }]
  },
  encode(w, p, at, _seed, site) {
    const t = at.t0
    const id = p.text('object')
    const box = site.box(id)
    if (p.choice('shape', t) === 'shape') {
      const size = box ? Math.max(...box.min.map((v, i) => box.max[i] - v)) / 2 : 0
      const m = site.from(id, t)
      // How deep one can be inside: half of its size, at the largest scale.
      const scale = Math.sqrt(Math.max(...[0, 1, 2].map((a) => m[a] * m[a] + m[4 + a] * m[4 + a] + m[8 + a] * m[8 + a])))
      encodeLimitNear(w, {
        object: site.index(id),
        beyond: p.number('beyond', t),
        soft: p.number('soft', t),
        depth: size * scale,
        falloff: falloffOf(p, t),
        bias: p.number('bias', t) / 100,
        outside: p.choice('side') === 'outside',
        dt: at.dt,
      })
      return
    }
    const into = id && invert(site.from(id, t))
    const { middle, half } = around(box, p.number('beyond', t))
    const ball = p.choice('shape', t) === 'ball'
    const moved = into && multiply(Float64Array.from([1, 0, 0, -middle[0], 0, 1, 0, -middle[1], 0, 0, 1, -middle[2]]), into)
    encodeLimitShape(w, {
      shape: ball ? 'ball' : 'box',
      half: ball ? [Math.max(...half), 0, 0] : half,
      soft: p.number('soft', t),
      falloff: falloffOf(p, t),
      bias: p.number('bias', t) / 100,
      outside: p.choice('side') === 'outside',
      into: moved || NOWHERE,
    })
  },
})
