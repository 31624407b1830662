import { cosTurns, sinTurns } from '../../engine'
import { number } from '../../shot'
import { defineReshape, say } from '../define'
import { axes, axisParam, length, middle } from './axis'

/**
 * The axis becomes a piece of a circle as long as it was; cross-sections stay flat and stand across it. The lower end stays where it is.
 */
export const bend = defineReshape({
  kind: 'bend',
  title: 'Bend',
  help: 'Bends it into an arc; the lower end stays.',
  synonyms: ['deform'],
  params: {
    axis: axisParam('Along', 'The axis that is bent, its own.'),
    angle: number({
      label: 'Angle',
      unit: '°',
      default: 60,
      soft: [-360, 360],
      animated: true,
      help: 'Between the directions of both ends.',
    }),
    towards: number({ label: 'Towards', unit: '°', default: 0, soft: [-180, 180], animated: true, help: 'To which side, about the axis.' }),
  },
  sentence: () => say`Bends along ${'axis'} by ${'angle'} towards ${'towards'}.`,
  move(p, t, points, box) {
    const [a, b, c] = axes(p.choice('axis', t))
    const whole = p.number('angle', t) / 360
    const size = length(box, a)
    if (Math.abs(whole) < 1e-9 || size < 1e-12) return
    const co = cosTurns(p.number('towards', t) / 360),
      si = sinTurns(p.number('towards', t) / 360)
    const radius = size / (whole * 6.283185307179586)
    const mb = middle(box, b),
      mc = middle(box, c)
    for (let i = 0; i < points.length; i += 3) {
      const x = points[i + b] - mb,
        y = points[i + c] - mc
      // u towards the side it bends to, v across.
      const u = x * co + y * si,
        v = y * co - x * si
      const turn = (whole * (points[i + a] - box.min[a])) / size
      const r = radius - u
      points[i + a] = box.min[a] + r * sinTurns(turn)
      const w = radius - r * cosTurns(turn)
      points[i + b] = mb + w * co - v * si
      points[i + c] = mc + w * si + v * co
    }
  },
})
