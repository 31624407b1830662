import { encodeWind } from '../../engine'
import { number, vector } from '../../shot'
import { defineForce, say, word } from '../define'
import { renewed } from './eddies'
import { directionIn } from './placed'
import { shareParams } from './share'

/**
 * Air that moves: it leads particles to its own velocity, sooner the shorter their response is (solved exactly over the step, so that a strong
 * wind never overshoots). Gusts are the noise of turbulence along the wind, straying is the noise across it; both travel with it.
 */
export const wind = defineForce({
  kind: 'wind',
  title: 'Wind',
  help: 'Moving air, with gusts, that takes particles along.',
  synonyms: ['breeze', 'air', 'gusts', 'blow'],
  movesGas: true,
  params: {
    speed: number({ label: 'Speed', unit: 'm/s', default: 3, soft: [0, 15], animated: true, integrated: true, help: 'Of the air.' }),
    direction: vector({
      label: 'Direction',
      unit: '',
      default: [1, 0, 0],
      animated: true,
      help: 'Where it blows to; its length does not matter.',
    }),
    response: number({
      label: 'Response',
      unit: 's',
      default: 0.5,
      min: 0,
      soft: [0.05, 3],
      animated: true,
      help: 'How long a particle of 1 kg takes to follow; heavier ones take longer.',
    }),
    gusts: number({
      label: 'Gusts',
      unit: '%',
      default: 40,
      min: 0,
      max: 1000,
      soft: [0, 150],
      animated: true,
      help: 'Largest change of the speed, as a part of it.',
    }),
    stray: number({
      label: 'Strays',
      unit: '%',
      default: 15,
      min: 0,
      max: 1000,
      soft: [0, 100],
      animated: true,
      help: 'Largest speed across its direction, as a part of its speed.',
    }),
    eddy: number({ label: 'Gust size', unit: 'm', default: 1.5, min: 1e-3, soft: [0.1, 10], animated: true, help: 'How large a gust is.' }),
    octaves: number({
      label: 'Detail',
      unit: '',
      default: 2,
      min: 1,
      max: 6,
      integer: true,
      help: 'Finer gusts on top, each half the size and half as strong.',
    }),
    renewal: number({
      label: 'Renewal',
      unit: '1/s',
      default: 0.3,
      min: 0,
      soft: [0, 5],
      animated: true,
      integrated: true,
      help: 'How often gusts give way to new ones, besides travelling.',
    }),
    ...shareParams,
  },
  handles: [{ kind: 'direction', param: 'direction', at: null }],
  sentence: (p) =>
    say`Wind blows towards ${'direction'} at ${'speed'}, ${word(p.number('gusts') > 0 ? 'in gusts' : 'evenly', 'gusts')}; followed in ${'response'}.`,
  resists: () => true,
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const direction = directionIn(p.vector('direction', t), site.from(null, t))
    const speed = p.number('speed', t)
    const way = p.integral('speed', t)
    // Gusts that have gone away do not come back: in a loop others come in their place, as often as they would pass.
    const loops = p.looped('renewal', t).seconds > 0
    encodeWind(
      w,
      {
        direction,
        speed,
        gust: (Math.abs(speed) * p.number('gusts', t)) / 100,
        stray: (Math.abs(speed) * p.number('stray', t)) / 100,
        eddy: p.number('eddy', t),
        octaves: p.number('octaves'),
        ...(loops ? renewed(p, t, Math.abs(speed) / p.number('eddy', t)) : { phase: p.integral('renewal', t) }),
        travelled: loops ? [0, 0, 0] : [direction[0] * way, direction[1] * way, direction[2] * way],
        responseS: p.number('response', t),
      },
      seed,
      share,
    )
  },
})
