import { number, type Params, ref, toggle } from '../shot'

/** A drawn mask: an element of its own, so that its values are keyed and moved like all others. */
export const MASK_PARAMS = {
  outline: {
    ...{ type: 'outline', label: 'Outline', animated: true, changes: 'picture' },
    default: [
      [-0.4, -0.4, 0],
      [0.4, -0.4, 0],
      [0.4, 0.4, 0],
      [-0.4, 0.4, 0],
    ],
    synonyms: ['mask', 'matte', 'roto', 'spline', 'shape', 'garbage matte'],
    help: 'A closed line in the picture. With keys, its corners go from one to the next.',
  },
  outside: toggle({
    ...{ label: 'Outside', default: false, changes: 'picture', synonyms: ['invert', 'inverse'] },
    help: 'All but what the line goes around is in front.',
  }),
  depth: number({
    ...{ label: 'Depth', unit: 'm', default: 5, min: 0.01, max: 1e6, soft: [0.5, 30], animated: true, changes: 'picture' },
    ...{ empty: 'of what it follows', given: true, synonyms: ['distance', 'holdout', 'occlusion'] },
    help: 'Along the way that the camera looks: what is farther than this is hidden by what lies behind everything.',
  }),
  feather: number({
    ...{ label: 'Feather', unit: '%', default: 0.4, min: 0, max: 100, soft: [0, 10], animated: true, changes: 'picture' },
    ...{ synonyms: ['softness', 'soft edge', 'blur'] },
    help: 'Width over which its edge fades, of the height of the picture; half of it lies inside.',
  }),
  covers: number({
    ...{ label: 'Covers', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, changes: 'picture' },
    ...{ synonyms: ['opacity', 'strength'] },
    help: 'How much of what is farther it hides.',
  }),
  follows: ref({
    ...{ label: 'Follows', to: 'object', default: null, empty: 'nothing', changes: 'picture', synonyms: ['track', 'tracking', 'stick'] },
    help: 'An object or anchor with which it goes along in the picture, and grows as it comes nearer.',
  }),
  since: number({
    ...{ label: 'Drawn at', unit: 's', default: 0, min: -3600, max: 36000, moment: true, changes: 'picture' },
    help: 'At this moment it lies as it was drawn; from there it goes along.',
  }),
  camera: ref({
    ...{ label: 'Camera', to: 'camera', default: null, empty: 'any', changes: 'picture' },
    help: 'The camera in whose picture it lies.',
  }),
} satisfies Params
