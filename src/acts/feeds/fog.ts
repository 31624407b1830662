import { colour, number, vector } from '../../shot'
import { defineFeed, say } from '../define'

const pictured = { changes: 'picture' } as const
/** A thin gas over the whole shot, by formula: nothing of it flows, and it costs no memory. */
export const fog = defineFeed({
  kind: 'fog',
  title: 'Fog over all',
  help: 'The gas does not flow: it is a thin fog over the whole shot, by formula. Lights make cones in it, and objects shadows.',
  synonyms: ['fog', 'haze', 'mist', 'atmosphere', 'volumetric light', 'god rays', 'light shafts', 'ground fog'],
  params: {
    density: number({
      ...{ ...pictured, label: 'Takes', unit: '1/m', default: 0.04, min: 0, max: 100, soft: [0, 0.5], animated: true },
      help: 'How much of light it takes within a metre: at 0.04 a third is left after 27 m.',
      synonyms: ['extinction', 'density', 'attenuation'],
    }),
    colour: colour({
      ...{ ...pictured, label: 'Colour', default: [0.82, 0.88, 0.92], animated: true },
      help: 'How much of what it takes it sends on in other directions: white is mist, dark is smoke.',
    }),
    level: number({
      ...{ ...pictured, label: 'Up to', unit: 'm', default: 0.5, soft: [-5, 20], animated: true },
      help: 'It is as dense up to this height of the shot.',
    }),
    halves: number({
      ...{
        ...pictured,
        label: 'Halves in',
        unit: 'm',
        default: 2,
        min: 0.001,
        soft: [0.1, 20],
        animated: true,
        empty: 'never',
        given: true,
      },
      help: 'Above, it is half as dense after every so many metres; empty: it is the same everywhere.',
      synonyms: ['height falloff'],
    }),
    forward: number({
      ...{ ...pictured, label: 'Ahead', unit: '%', default: 60, min: -95, max: 95, soft: [-50, 90], animated: true },
      help: 'How far ahead it scatters: a lamp behind it shines through the more, and cones seen from aside are the fainter.',
      synonyms: ['anisotropy', 'phase', 'scatter direction'],
    }),
    even: number({
      ...{ ...pictured, label: 'Even light', unit: '%', default: 100, min: 0, soft: [0, 200], animated: true },
      help: 'How much of the light of the surroundings it scatters.',
    }),
    reach: number({
      ...{ ...pictured, label: 'Seen to', unit: 'm', default: 60, min: 1, max: 10000, soft: [10, 300], animated: true },
      help: 'Into the depth; what lies farther, the sky too, is as if it were there.',
    }),
    patches: number({
      ...{ ...pictured, label: 'Patches', unit: '%', default: 0, min: 0, max: 100, soft: [0, 100], animated: true },
      help: 'How much denser and thinner it is from place to place.',
      synonyms: ['noise'],
    }),
    patchSize: number({
      ...{ ...pictured, label: 'Patch size', unit: 'm', default: 4, min: 0.05, soft: [0.5, 20] },
      help: 'How large these patches are.',
    }),
    drift: vector({
      ...{ ...pictured, label: 'Drift', unit: 'm/s', default: [0.2, 0, 0] },
      help: 'Velocity with which patches go along.',
    }),
    renewed: number({
      ...{ ...pictured, label: 'Renewed', unit: '1/s', default: 0.1, min: 0, soft: [0, 2], animated: true, integrated: true },
      help: 'How quickly patches become others.',
    }),
  },
  sentence: (p) => [
    ...say`Takes ${'density'} of light`,
    ...(p.optional('halves') === null ? [] : say`, halves every ${'halves'} above ${'level'}`),
    ...(p.number('patches') > 0 ? say`, in patches of ${'patchSize'}` : []),
    '.',
  ],
  from: () => ({ object: null, skin: false }),
  window: () => [0, Number.POSITIVE_INFINITY],
  feed: () => ({
    ...{ reach: 0, amounts: {}, own: 0, outwards: 0, direction: [0, 0, 0], lead: 0, breakUp: 0, breakSize: 1, breakPhase: 0 },
  }),
  fog: (p, t, seed) => {
    const drift = p.vector('drift')
    const amount = p.number('patches', t) / 100
    return {
      reach: p.number('reach', t),
      extinction: p.number('density', t),
      level: p.number('level', t),
      halves: p.optional('halves', t),
      albedo: p.colour('colour', t),
      forward: p.number('forward', t) / 100,
      surroundings: p.number('even', t) / 100,
      patches:
        amount > 0
          ? {
              amount,
              size: p.number('patchSize'),
              drift: drift.map((v) => v * t) as [number, number, number],
              phase: p.integral('renewed', t),
              seed,
            }
          : null,
    }
  },
})
