import { number } from '../../shot'
import { defineFinish, say } from '../define'
import { alongWay, ROUNDS } from './blurs'
import { centreOf, centreParams } from './centre'

const GLSL = alongWay(`
vec2 place(vec2 uv, float s) {
  vec2 d = (uv - middle) * vec2(aspect, 1.0);
  float a = angle * s;
  return middle + vec2(d.x * cos(a) - d.y * sin(a), d.x * sin(a) + d.y * cos(a)) / vec2(aspect, 1.0);
}`)
export const spinBlur = defineFinish({
  kind: 'spinBlur',
  title: 'Spin blur',
  help: 'Blurs the picture around a place, as if it turned.',
  synonyms: ['radial', 'rotation', 'turn'],
  params: {
    angle: number({ label: 'Angle', unit: '°', default: 6, min: 0, max: 360, soft: [0, 45], animated: true, help: 'How far it turns.' }),
    ...centreParams,
  },
  passes: (p, view) => {
    const middle = centreOf(p, view)
    const angle = (p.number('angle', view.t) * Math.PI) / 180
    return middle && angle > 0 ? ROUNDS.map((part) => ({ glsl: GLSL, values: { middle, angle, part } })) : []
  },
  sentence: () => say`Spin blur of ${'angle'}.`,
})
