import { colour, number } from '../../shot'
import { defineRegion, say, word } from '../define'
import { HOW, howParams } from './common'

export const tint = defineRegion({
  kind: 'tint',
  title: 'Vertex colour',
  help: 'Where the file’s vertex colours are near one colour.',
  synonyms: ['vertex colour', 'mask'],
  params: {
    colour: colour({ label: 'Colour', default: [1, 0, 0], animated: true, help: 'The colour that is taken.' }),
    within: number({
      label: 'Within',
      unit: '%',
      default: 30,
      min: 0,
      max: 200,
      soft: [0, 100],
      animated: true,
      help: 'How different a colour may be.',
    }),
    fade: number({
      label: 'Fade',
      unit: '%',
      default: 20,
      min: 0,
      max: 200,
      soft: [0, 100],
      animated: true,
      help: 'From all of it to nothing within this.',
    }),
    ...howParams,
  },
  sentence: (p) => say`${word(HOW[p.choice('how')], 'how')} where vertex colours are near ${'colour'}, within ${'within'}.`,
  amount(p, site) {
    const c = site.colours
    if (!c) return () => 0
    const want = p.colour('colour', site.t),
      within = p.number('within', site.t) / 100,
      fade = Math.max(1e-4, p.number('fade', site.t) / 100)
    return (v) => {
      const d = Math.sqrt((c[v * 3] - want[0]) ** 2 + (c[v * 3 + 1] - want[1]) ** 2 + (c[v * 3 + 2] - want[2]) ** 2)
      return Math.min(1, Math.max(0, 0.5 - (d - within) / fade))
    }
  },
})
