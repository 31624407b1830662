import type { BirthParams } from '../../engine'
import { choice, number, type Params, part, ref, vector } from '../../shot'
import type { Reader } from '../reader'

/** Where newborns start and how they leave: the same for every source, whatever its timing. */
export const throwParams: Params = {
  source: ref({ label: 'Source', to: 'source', default: null, empty: 'the middle of the shot', help: 'The object, or the particles of another system, that particles start from.' }),
  part: part({ label: 'Part', of: 'source', default: '', help: 'Only this named part of the mesh; all of it when empty.' }),
  region: { type: 'region', label: 'Region', of: 'source', default: '', help: 'Only where a region of the source says, by its amounts; on faces, edges and corner points.' },
  share: number({ label: 'Share', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, help: 'Of the particles of another system: how many of them give births, always the same ones.' }),
  from: choice({
    label: 'Start on',
    default: 'faces',
    options: [
      { value: 'faces', label: 'faces', help: 'Evenly by area over the faces.' },
      { value: 'point', label: 'its point', help: 'All at the place of the object.' },
      { value: 'vertices', label: 'corner points', help: 'On the points where its faces meet.' },
      { value: 'edges', label: 'edges', help: 'Evenly along the edges of its faces.' },
      { value: 'inside', label: 'its inside', help: 'Evenly in its volume.' },
      { value: 'lattice', label: 'a lattice inside', help: 'On even rows of points that fill it, one after another.' },
    ],
    help: 'Where on the source particles start.',
  }),
  lattice: number({ label: 'Spacing', unit: 'm', default: 0.05, min: 0.001, soft: [0.01, 0.5], help: 'From point to point of the lattice, in the own size of the source.' }),
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
  outward: number({ label: 'Outward', unit: 'm/s', default: 0, soft: [-5, 5], animated: true, varied: true, help: 'Added: away from the place of the source.' }),
  slide: number({ label: 'Sideways', unit: 'm/s', default: 0, soft: [0, 5], animated: true, varied: true, help: 'Added: along the surface, each in its own direction.' }),
  anyway: number({ label: 'Any way', unit: 'm/s', default: 0, soft: [0, 5], animated: true, varied: true, help: 'Added: each in a direction of its own, all equally likely.' }),
  inherit: number({ label: 'Inherit', unit: '%', default: 0, min: -1000, max: 1000, soft: [0, 100], animated: true, help: "Share of the source's own velocity that newborns keep." }),
}
export function thrown(p: Reader, t: number): Omit<BirthParams, 'source'> {
  return {
    part: p.text('part') ?? '',
    region: p.text('region') ?? '',
    share: p.number('share', t) / 100,
    on: p.choice('from', t) as BirthParams['on'],
    lattice: p.number('lattice', t),
    outward: p.number('outward', t),
    outwardVary: p.vary('outward'),
    slide: p.number('slide', t),
    slideVary: p.vary('slide'),
    anyway: p.number('anyway', t),
    anywayVary: p.vary('anyway'),
    along: p.choice('along', t) as 'normal' | 'direction',
    direction: p.vector('direction', t),
    spreadTurns: p.number('spread', t) / 360,
    speed: p.number('speed', t),
    speedVary: p.vary('speed'),
    inherit: p.number('inherit', t) / 100,
  }
}
