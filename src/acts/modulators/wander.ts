import { mix, noise1 } from '../../engine'
import { number } from '../../shot'
import { defineModulator, say } from '../define'

const OCTAVES = 5
/** From −1…1 to the same, steeper in the middle: octaves rarely reach their ends together, and the height is what it really goes to. */
const lifted = (x: number): number => x * (1.5 - 0.5 * x * x)

/** A smooth random path: octaves of value noise over time, each twice as fast and `roughness` times as high as the one before. */
export const wander = defineModulator({
  kind: 'wander',
  title: 'Wander',
  swings: true,
  help: 'Strays about the value at random, smoothly; the same seed strays the same way.',
  synonyms: ['noise', 'jitter', 'random', 'shake', 'wiggle'],
  ahead: 'offset',
  params: {
    height: number({
      label: 'Height',
      unit: '',
      default: 1,
      soft: [0, 5],
      help: 'How far it strays to each side at most, in the unit of the value.',
    }),
    rate: number({ label: 'Rate', unit: '1/s', default: 1, min: 0, max: 1000, soft: [0, 8], help: 'New directions per second.' }),
    roughness: number({
      label: 'Roughness',
      unit: '%',
      default: 30,
      min: 0,
      max: 100,
      soft: [0, 100],
      help: '0 is one smooth path; more adds finer and finer trembling.',
    }),
    offset: number({
      label: 'Offset',
      unit: 's',
      default: 0,
      soft: [-5, 5],
      help: 'How much it runs ahead. Another offset makes a companion.',
    }),
  },
  sentence: () => say`Wanders by ${'height'}, ${'rate'}.`,
  make(p, { loop }, seed) {
    const height = p.number('height'),
      rate = p.number('rate'),
      rough = p.number('roughness') / 100,
      offset = p.number('offset')
    let all = 0
    for (let k = 0, a = 1; k < OCTAVES; k++, a *= rough) all += a
    // In a loop it takes a whole number of directions, and comes back to the first.
    const turns = loop && rate ? Math.max(2, Math.round(loop * rate)) : 0
    return (t) => {
      let sum = 0
      let amp = 1
      let x = (t + offset) * (turns && loop ? turns / loop : rate)
      let period = turns
      for (let k = 0; k < OCTAVES && amp > 0.001; k++) {
        sum += amp * noise1(mix(seed + k), x, period)
        amp *= rough
        x *= 2
        period *= 2
      }
      return height * lifted(sum / all)
    }
  },
})
