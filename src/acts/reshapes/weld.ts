import { closeHoles, weld as join } from '../../engine'
import { number, toggle } from '../../shot'
import { defineReshape, say, word } from '../define'

export const weld = defineReshape({
  kind: 'weld',
  title: 'Weld',
  help: 'Joins points that lie close together, and closes holes.',
  synonyms: ['merge', 'close holes'],
  params: {
    distance: number({
      label: 'Distance',
      unit: 'm',
      default: 0.0001,
      min: 0,
      soft: [0, 0.01],
      help: 'Points nearer than this become one.',
    }),
    holes: toggle({ label: 'Close holes', default: false, help: 'Fills holes, so that the mesh has an inside.' }),
    edges: number({
      label: 'Up to',
      unit: '',
      default: 64,
      min: 3,
      max: 100000,
      soft: [3, 256],
      integer: true,
      help: 'Edges around the largest hole that is closed.',
    }),
  },
  sentence: (p) => say`Joins points nearer than ${'distance'}${word(p.on('holes') ? ' and closes holes' : '', 'holes')}.`,
  rebuild(p, mesh) {
    const joined = join(mesh, p.number('distance'))
    if (!p.on('holes')) return joined
    const closed = closeHoles(joined.mesh, p.number('edges'))
    return { mesh: closed.mesh, carry: (x) => closed.carry(joined.carry(x)) }
  },
})
