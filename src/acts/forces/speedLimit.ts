import { encodeSpeedClamp } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** Keeps the speed between two bounds; the direction stays. */
export const speedLimit = defineForce({
  kind: 'speedLimit',
  title: 'Speed limit',
  help: 'Keeps particles from getting too fast, or too slow.',
  synonyms: ['clamp', 'maximum velocity', 'max speed'],
  params: {
    max: number({
      label: 'At most',
      unit: 'm/s',
      default: 4,
      min: 0,
      soft: [0.1, 20],
      animated: true,
      help: 'Faster ones are slowed down to this at once.',
    }),
    min: number({
      label: 'At least',
      unit: 'm/s',
      default: 0,
      min: 0,
      soft: [0, 10],
      animated: true,
      help: 'Slower ones are sped up to this; what stands still has no direction and stays.',
    }),
    ...shareParams,
  },
  sentence: () => say`Speed is at most ${'max'} and at least ${'min'}.`,
  encode(w, p, at, seed, share) {
    const max = p.number('max', at.t0)
    encodeSpeedClamp(w, Math.min(max, p.number('min', at.t0)), max, seed, share)
  },
})
