import { number } from '../../shot'
import { defineFinish, say } from '../define'
import { alongWay, ROUNDS } from './blurs'

const GLSL = alongWay('vec2 place(vec2 uv, float s) { return uv + way * s; }')
export const smear = defineFinish({
  kind: 'smear',
  title: 'Directional blur',
  help: 'Blurs the picture along a line.',
  synonyms: ['motion', 'streak', 'smear', 'linear'],
  params: {
    length: number({
      label: 'Length',
      unit: '%',
      default: 4,
      min: 0,
      max: 200,
      soft: [0, 30],
      animated: true,
      help: 'Of the picture’s height.',
    }),
    turn: number({ label: 'Turn', unit: '°', default: 0, soft: [-180, 180], animated: true, help: 'From the right, anticlockwise.' }),
  },
  passes: (p, { t, width, height }) => {
    const long = p.number('length', t) / 100
    const angle = (p.number('turn', t) * Math.PI) / 180
    const way = [(Math.cos(angle) * long * height) / width, Math.sin(angle) * long]
    return long > 0 ? ROUNDS.map((part) => ({ glsl: GLSL, values: { way, part } })) : []
  },
  sentence: () => say`Smears ${'length'} along ${'turn'}.`,
})
