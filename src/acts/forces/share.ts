import { number, type Params } from '../../shot'

/** Every force takes a share of 0 to 100 % of itself, which may differ from particle to particle. */
export const shareParams = {
  share: number({
    label: 'Share',
    unit: '%',
    default: 100,
    min: 0,
    max: 100,
    soft: [0, 100],
    animated: true,
    varied: true,
    help: 'How much of the force the particles feel; ± gives every particle its own share.',
  }),
} satisfies Params
