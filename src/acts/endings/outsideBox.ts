import { invert } from '../../engine'
import { number, ref } from '../../shot'
import { defineEnding, say } from '../define'

/** The six planes of a box in an object's own space, in the shot: inside is where all are above zero. */
export const outsideBox = defineEnding({
  kind: 'outsideBox',
  title: 'Ends outside',
  help: 'Takes particles out that leave the box around an object.',
  synonyms: ['kill', 'bounds', 'kill volume', 'cull'],
  params: {
    object: ref({
      label: 'Box of',
      to: 'object',
      default: null,
      empty: 'nothing yet',
      help: 'The object whose box counts, as it stands and turns; an unseen box does well.',
    }),
    margin: number({
      label: 'Margin',
      unit: 'm',
      default: 0,
      soft: [-1, 2],
      animated: true,
      help: 'How much larger than the object the box is.',
    }),
  },
  sentence: () => say`Ends beyond ${'margin'} outside the box of ${'object'}.`,
  planes(p, t, site) {
    const o = site.object(p.text('object'), t)
    const into = o && invert(o.matrix)
    if (!o || !into) return null
    const out: number[][] = []
    for (let a = 0; a < 3; a++) {
      const row = [into[a * 4], into[a * 4 + 1], into[a * 4 + 2]]
      // Own metres in one metre of the shot, across this face.
      const scale = Math.sqrt(row[0] * row[0] + row[1] * row[1] + row[2] * row[2])
      const margin = p.number('margin', t) * scale
      out.push([...row, into[a * 4 + 3] - o.box.min[a] + margin], [...row.map((x) => -x), o.box.max[a] + margin - into[a * 4 + 3]])
    }
    return out
  },
})
