import { subdivide as cut, triangleCount } from '../../engine'
import { number } from '../../shot'
import { defineReshape, say } from '../define'

/** More triangles than this are not made: the number of times is lowered until it fits. */
const MOST = 2_000_000

export const subdivide = defineReshape({
  kind: 'subdivide',
  title: 'Subdivide',
  help: 'Cuts every triangle into four: more points for the steps after it.',
  synonyms: ['smooth', 'refine'],
  params: {
    times: number({ label: 'Times', unit: '', default: 1, min: 1, max: 6, integer: true, help: 'Each makes four triangles of one.' }),
  },
  sentence: () => say`Subdivides ${'times'} times.`,
  rebuild(p, mesh) {
    let times = p.number('times')
    while (times > 0 && triangleCount(mesh) * 4 ** times > MOST) times--
    return cut(mesh, times)
  },
})
