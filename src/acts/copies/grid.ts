import type { Matrix } from '../../engine'
import { vector } from '../../shot'
import { defineCopies, say } from '../define'
import { copyMatrix, countParam, MOST_COPIES, varyParams } from './common'

export const grid = defineCopies({
  kind: 'copiesGrid',
  title: 'Copies in a grid',
  help: 'Repeats it in rows, columns and floors.',
  synonyms: ['array', 'duplicate', 'instances'],
  params: {
    across: countParam('Across', 3, 'Along X.', 200),
    up: countParam('Up', 1, 'Along Y.', 200),
    deep: countParam('Deep', 3, 'Along Z.', 200),
    spacing: vector({
      label: 'Spacing',
      unit: 'm',
      default: [0.8, 0.8, 0.8],
      animated: true,
      help: 'From one to the next along X, Y and Z.',
    }),
    ...varyParams,
  },
  sentence: () => say`Stands ${'across'} × ${'up'} × ${'deep'} times in a grid, ${'spacing'} apart.`,
  matrices(p, t, seed, within) {
    const n = [p.number('across'), p.number('up'), p.number('deep')],
      gap = p.vector('spacing', t)
    const out: Matrix[] = []
    for (let j = 0; j < n[1]; j++)
      for (let k = 0; k < n[2]; k++)
        for (let i = 0; i < n[0]; i++) {
          if (out.length < MOST_COPIES)
            out.push(
              copyMatrix(
                p,
                t,
                seed,
                out.length,
                [i, j, k].map((x, a) => (x - (n[a] - 1) / 2) * gap[a]),
                [0, 0, 0],
                within,
              ),
            )
        }
    return out
  },
})
