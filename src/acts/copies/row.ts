import { toggle, vector } from '../../shot'
import { defineCopies, say } from '../define'
import { copyMatrix, countParam, varyParams } from './common'

export const row = defineCopies({
  kind: 'copiesLine',
  title: 'Copies in a line',
  help: 'Repeats it step by step.',
  synonyms: ['array', 'line', 'instances'],
  params: {
    count: countParam('Copies', 5, 'How many stand in the line.'),
    step: vector({ label: 'Step', unit: 'm', default: [0.8, 0, 0], animated: true, help: 'From one to the next.' }),
    turn: vector({
      label: 'Rotated by',
      unit: '°',
      default: [0, 0, 0],
      animated: true,
      help: 'Each is rotated by this more than the one before.',
    }),
    centred: toggle({
      label: 'Centred',
      default: true,
      help: 'The middle of the line is the place of the element; else the line begins there.',
    }),
    ...varyParams,
  },
  sentence: () => say`Stands ${'count'} times in a line, ${'step'} apart.`,
  matrices(p, t, seed, within) {
    const count = p.number('count'),
      step = p.vector('step', t),
      turn = p.vector('turn', t)
    const from = p.on('centred') ? (count - 1) / 2 : 0
    return Array.from({ length: count }, (_, i) =>
      copyMatrix(
        p,
        t,
        seed,
        i,
        step.map((x) => x * (i - from)),
        [turn[0] * i, turn[1] * i, turn[2] * i],
        within,
      ),
    )
  },
})
