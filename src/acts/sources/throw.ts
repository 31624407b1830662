import type { BirthParams } from '../../engine'
import { choice, number, type Params, part, ref, vector } from '../../shot'
import type { Reader } from '../reader'

/** Where newborns start and how they leave: the same for every source, whatever its timing. */
export const throwParams: Params = {
  source: ref({ label: 'Source', to: 'object', default: null, empty: 'the middle of the shot', help: 'The object that particles start from.' }),
  part: part({ label: 'Part', of: 'source', default: '', help: 'Only this named part of the mesh; all of it when empty.' }),
  from: choice({
    label: 'Start on',
    default: 'faces',
    options: [
      { value: 'faces', label: 'faces', help: 'Evenly by area over the faces.' },
      { value: 'point', label: 'its point', help: 'All at the place of the object.' },
    ],
    help: 'Evenly over the faces of the source, or all at its point.',
  }),
  along: choice({
    label: 'Along',
    default: 'normal',
    options: [
      { value: 'normal', label: 'the surface normal' },
      { value: 'direction', label: 'a direction' },
    ],
    help: 'What the start velocity follows.',
  }),
  direction: vector({ label: 'Direction', unit: '', default: [0, 1, 0], animated: true, help: 'In the space of the source, when it goes along a direction. Its length does not matter.' }),
  spread: number({ label: 'Spread', unit: '°', default: 30, min: 0, max: 180, soft: [0, 180], animated: true, help: 'Largest angle from the direction; 180° is every way.' }),
  speed: number({ label: 'Speed', unit: 'm/s', default: 2, min: 0, soft: [0, 20], animated: true, varied: true, help: 'Start speed.' }),
  inherit: number({ label: 'Inherit', unit: '%', default: 0, min: -1000, max: 1000, soft: [0, 100], animated: true, help: "Share of the source's own velocity that newborns keep." }),
}
export function thrown(p: Reader, t: number): Omit<BirthParams, 'source'> {
  return {
    part: p.text('part') ?? '',
    atPoint: p.choice('from', t) === 'point',
    along: p.choice('along', t) as 'normal' | 'direction',
    direction: p.vector('direction', t),
    spreadTurns: p.number('spread', t) / 360,
    speed: p.number('speed', t),
    speedVary: p.vary('speed'),
    inherit: p.number('inherit', t) / 100,
  }
}
