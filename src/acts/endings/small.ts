import { number } from '../../shot'
import { defineEnding, say } from '../define'

/** Sizes are of the look; with this ending a change of the look is one of the simulation too. */
export const small = defineEnding({
  kind: 'small',
  title: 'Ends when small',
  help: 'Takes particles out that have become smaller than a size.',
  synonyms: ['kill', 'cull', 'size threshold'],
  reads: ['look'],
  params: {
    size: number({
      label: 'Below',
      unit: 'm',
      default: 0.001,
      min: 0,
      soft: [0, 0.02],
      animated: true,
      help: 'The size of the look, its ± and its curve over life, under which a particle ends.',
    }),
  },
  sentence: () => say`Ends when it is smaller than ${'size'}.`,
  below: (p, t) => p.number('size', t),
})
