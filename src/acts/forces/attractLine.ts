import { apply, encodeSegment } from '../../engine'
import { choice, number, ref, vector } from '../../shot'
import { defineForce, say, word } from '../define'
import { falloffOf, falloffParam, reachOf, reachParam } from './placed'
import { shareParams } from './share'

/** Towards the nearest point of a straight line between two ends, or away from it: a beam, a wick, a slit. */
export const attractLine = defineForce({
  kind: 'attractLine',
  title: 'Attract by a line',
  help: 'Pulls particles to a straight line between two ends, or pushes them away from it.',
  synonyms: ['attractor', 'line force', 'magnet', 'repel'],
  movesGas: true,
  params: {
    mode: choice({
      label: 'Mode',
      default: 'towards',
      options: [
        { value: 'towards', label: 'attracts' },
        { value: 'away', label: 'repels' },
      ],
      animated: true,
      help: 'To the nearest point of the line or away from it.',
    }),
    strength: number({ label: 'Strength', unit: 'm/s²', default: 10, min: 0, soft: [0, 50], animated: true, help: 'At the line.' }),
    reach: reachParam(0.5, 'Nothing is felt farther from the line than this.'),
    falloff: falloffParam,
    from: vector({ label: 'From', unit: 'm', default: [-0.5, 0.5, 0], animated: true, help: 'One end of the line.' }),
    to: vector({ label: 'To', unit: 'm', default: [0.5, 0.5, 0], animated: true, help: 'The other end.' }),
    object: ref({
      label: 'Parent',
      to: 'object',
      default: null,
      empty: 'the shot',
      help: 'Both ends are parented to this object, which may be unseen.',
    }),
    ...shareParams,
  },
  handles: [
    { kind: 'place', param: 'from' },
    { kind: 'place', param: 'to' },
    { kind: 'reach', param: 'reach', at: 'from' },
  ],
  outlines: (p, t) => [{ shape: 'line', points: [p.vector('from', t), p.vector('to', t)] }],
  sentence: (p) =>
    say`${word(p.choice('mode') === 'away' ? 'Repels' : 'Attracts', 'mode')} at up to ${'strength'} from a line, ${'from'} to ${'to'}, reach ${'reach'}, falls ${'falloff'}.`,
  encode(w, p, at, seed, share, site) {
    const t = at.t0
    const space = site.from(p.text('object'), t)
    encodeSegment(
      w,
      {
        from: apply(space, ...p.vector('from', t)),
        to: apply(space, ...p.vector('to', t)),
        strength: p.number('strength', t) * (p.choice('mode', t) === 'away' ? -1 : 1),
        reach: reachOf(p, t),
        falloff: falloffOf(p, t),
      },
      seed,
      share,
    )
  },
})
