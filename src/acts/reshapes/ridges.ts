import { choice, number } from '../../shot'
import { defineReshape, say, word } from '../define'
import { along, axes, axisParam, middle } from './axis'

/** Ribs around an axis or rings along it: waves that push every point out along its normal. */
export const ridges = defineReshape({
  kind: 'ridges',
  title: 'Ridges',
  help: 'Raises ribs that run along an axis, or rings around it.',
  synonyms: ['flutes', 'grooves', 'waves', 'ribs', 'displace', 'deform'],
  params: {
    axis: axisParam('About', 'The axis that they run along or around, its own.'),
    run: choice({
      label: 'Run',
      default: 'along',
      options: [
        { value: 'along', label: 'along it', help: 'As the flutes of a column.' },
        { value: 'around', label: 'around it', help: 'As the rings of a worm.' },
      ],
      help: 'Which way the ridges go.',
    }),
    count: number({
      ...{ label: 'Number', unit: '', default: 12, min: 0, max: 500, soft: [0, 40], animated: true },
      help: 'All around, or from end to end; whole numbers close around.',
    }),
    height: number({
      label: 'Height',
      unit: 'm',
      default: 0.02,
      soft: [-0.2, 0.2],
      animated: true,
      help: 'How far they stand out; below zero they are grooves.',
    }),
    sharp: number({
      ...{ label: 'Sharp', unit: '%', default: 0, min: 0, max: 100, soft: [0, 100], animated: true },
      help: 'At 0 even waves; at 100 thin ridges on a smooth ground.',
    }),
    shift: number({
      label: 'Shift',
      unit: '°',
      default: 0,
      soft: [-180, 180],
      animated: true,
      help: 'Moves them on: 360° is one of them.',
    }),
  },
  sentence: (p) => say`${'count'} ridges ${word(p.choice('run') === 'along' ? 'along' : 'around', 'run')} ${'axis'}, ${'height'} high.`,
  move(p, t, points, box, _seed, normals) {
    const [height, count] = [p.number('height', t), p.number('count', t)]
    if (height === 0 || count === 0) return
    const [a, b, c] = axes(p.choice('axis'))
    const runs = p.choice('run') === 'along'
    const shift = (p.number('shift', t) * Math.PI) / 180
    const power = 1 + (p.number('sharp', t) / 100) * 7
    const [mb, mc] = [middle(box, b), middle(box, c)]
    const n = normals()
    for (let i = 0; i < points.length; i += 3) {
      const turn = runs ? count * Math.atan2(points[i + c] - mc, points[i + b] - mb) : 2 * Math.PI * count * along(box, a, points[i + a])
      const h = height * (0.5 + 0.5 * Math.cos(turn + shift)) ** power
      for (let k = 0; k < 3; k++) points[i + k] += n[i + k] * h
    }
  },
})
