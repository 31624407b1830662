import { apply, multiply } from '../../engine'
import { choice, number, ref } from '../../shot'
import { defineRegion, say, word } from '../define'
import { toBox } from './box'
import { edge, HOW, howParams, softParam } from './common'

/**
 * What another object reaches, as a ball or a box around it. Distances are taken in the other's own space, where its ball or box is, times
 * its mean scale: right under even scale, nearly right under uneven.
 */
export const near = defineRegion({
  kind: 'near',
  title: 'Near an object',
  help: 'What another object reaches; it may move.',
  params: {
    object: ref({ label: 'Object', to: 'object', default: null, empty: 'nothing yet', help: 'The object whose neighbourhood counts.' }),
    shape: choice({
      label: 'As',
      default: 'ball',
      options: [
        { value: 'ball', label: 'a ball' },
        { value: 'box', label: 'a box' },
      ],
      help: 'The ball or the box around its shape; of an anchor it is its place.',
    }),
    reach: number({
      label: 'Reach',
      unit: 'm',
      default: 0.2,
      min: 0,
      soft: [0, 2],
      animated: true,
      help: 'How far beyond it the region goes.',
    }),
    soft: softParam,
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} within ${'reach'} of ${'object'}, edge ${'soft'}.`,
  looksAround: () => true,
  amount(p, site) {
    const other = site.other(p.text('object'))
    if (!other) return () => 0
    const { into, box } = other
    const m = multiply(into, site.world)
    const c = box ? box.min.map((v, i) => (v + box.max[i]) / 2) : [0, 0, 0]
    const half = box ? box.min.map((v, i) => (box.max[i] - v) / 2) : [0, 0, 0]
    const radius = box ? Math.max(...half) : 0
    // Metres of the shot in one metre of the other's space: the cube root of the volume factor, by Newton.
    const det =
      Math.abs(
        into[0] * (into[5] * into[10] - into[6] * into[9]) -
          into[1] * (into[4] * into[10] - into[6] * into[8]) +
          into[2] * (into[4] * into[9] - into[5] * into[8]),
      ) || 1
    let root = Math.max(det, 1)
    for (let k = 0; k < 200; k++) root = (2 * root + det / (root * root)) / 3
    const scale = 1 / root
    const asBall = p.choice('shape', site.t) === 'ball'
    const reach = p.number('reach', site.t),
      soft = p.number('soft', site.t)
    return (v) => {
      const x = apply(m, site.places[v * 3], site.places[v * 3 + 1], site.places[v * 3 + 2])
      const [dx, dy, dz] = [x[0] - c[0], x[1] - c[1], x[2] - c[2]]
      const d = asBall ? Math.sqrt(dx * dx + dy * dy + dz * dz) - radius : toBox(dx, dy, dz, half)
      return edge(d * scale - reach, soft)
    }
  },
})
