import { cosDeg, sinDeg } from '../../engine'
import { choice, number, toggle } from '../../shot'
import { defineCopies, say } from '../define'
import { copyMatrix, countParam, varyParams } from './common'

export const ring = defineCopies({
  kind: 'copiesRing',
  title: 'Copies in a ring',
  help: 'Repeats it around an axis.',
  synonyms: ['array', 'circle', 'radial', 'instances'],
  params: {
    count: countParam('Copies', 6, 'How many stand in the ring.'),
    radius: number({
      label: 'Radius',
      unit: 'm',
      default: 0.6,
      min: 0,
      soft: [0, 5],
      animated: true,
      help: 'From the middle of the ring to each.',
    }),
    axis: choice({
      label: 'About',
      default: 'y',
      options: [
        { value: 'x', label: 'X' },
        { value: 'y', label: 'Y' },
        { value: 'z', label: 'Z' },
      ],
      help: 'The axis in the middle.',
    }),
    arc: number({
      label: 'Arc',
      unit: '°',
      default: 360,
      min: -3600,
      max: 3600,
      soft: [0, 360],
      animated: true,
      help: 'How far around; a whole turn closes it.',
    }),
    faces: toggle({ label: 'Turned along', default: true, help: 'Each is rotated with its place in the ring.' }),
    ...varyParams,
  },
  sentence: () => say`Stands ${'count'} times in a ring of ${'radius'} about ${'axis'}.`,
  matrices(p, t, seed, within) {
    const count = p.number('count'),
      radius = p.number('radius', t),
      arc = p.number('arc', t),
      axis = p.choice('axis')
    // A closed ring has no second copy at its end; an arc has one at both ends.
    const gaps = Math.abs(arc) % 360 === 0 ? count : Math.max(1, count - 1)
    return Array.from({ length: count }, (_, i) => {
      const deg = (arc * i) / gaps
      const [c, s] = [radius * cosDeg(deg), radius * sinDeg(deg)]
      const place = axis === 'y' ? [s, 0, c] : axis === 'x' ? [0, c, s] : [c, s, 0]
      const face = p.on('faces') ? deg : 0
      return copyMatrix(p, t, seed, i, place, axis === 'y' ? [0, face, 0] : axis === 'x' ? [face, 0, 0] : [0, 0, face], within)
    })
  },
})
