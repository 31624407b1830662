import { encodeSpeedClamp } from '../../engine'
import { number } from '../../shot'
import { defineForce, say } from '../define'
import { shareParams } from './share'

/** Keeps the speed between two bounds; the direction stays. */
export const pace = defineForce({
  kind: 'speedLimit',
  title: 'Speed limit',
  help: 'Keeps particles from getting too fast, or too slow.',
  params: {
    most: number({
      label: 'At most',
      unit: 'm/s',
      default: 4,
      min: 0,
      soft: [0.1, 20],
      animated: true,
      help: 'Faster ones are slowed down to this at once.',
    }),
    least: number({
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
  sentence: () => say`Speed is at most ${'most'} and at least ${'least'}.`,
  encode(w, p, at, seed, share) {
    const most = p.number('most', at.t0)
    encodeSpeedClamp(w, Math.min(most, p.number('least', at.t0)), most, seed, share)
  },
})
