import { cosTurns, sinTurns } from '../../engine'
import { number } from '../../shot'
import { defineReshape, say } from '../define'
import { along, axes, axisParam, middle } from './axis'

/** Rotation about an axis by an angle that grows evenly along it; the middle stands still. */
export const twist = defineReshape({
  kind: 'twist',
  title: 'Twist',
  help: 'Wrings it about an axis.',
  synonyms: ['deform'],
  params: {
    axis: axisParam('About', 'The axis it is wrung about, its own.'),
    angle: number({ label: 'Angle', unit: '°', default: 90, soft: [-360, 360], animated: true, help: 'From end to end.' }),
  },
  sentence: () => say`Twists about ${'axis'} by ${'angle'} from end to end.`,
  move(p, t, points, box) {
    const [a, b, c] = axes(p.choice('axis', t))
    const turns = p.number('angle', t) / 360
    const mb = middle(box, b),
      mc = middle(box, c)
    for (let i = 0; i < points.length; i += 3) {
      const k = turns * (along(box, a, points[i + a]) - 0.5)
      const co = cosTurns(k),
        si = sinTurns(k),
        x = points[i + b] - mb,
        y = points[i + c] - mc
      points[i + b] = mb + x * co - y * si
      points[i + c] = mc + x * si + y * co
    }
  },
})
