import { number } from '../../shot'
import { defineLook, say } from '../define'

const share = { unit: '%', min: 0, max: 100, soft: [0, 100], animated: true } as const

/** A soft billow that takes light and shades the others: many of them read as one body. */
export const tuft = defineLook({
  kind: 'tuft',
  role: 'draw',
  title: 'Tuft',
  help: 'A soft lit billow; many of them shade each other and read as one body: smoke, dust, snow, wool, cloud.',
  synonyms: ['smoke', 'cloud', 'dust', 'powder', 'puff', 'billow', 'volume', 'cloudlet', 'fluff', 'self shadow'],
  params: {
    thickness: number({
      ...{ label: 'Thickness', unit: '', default: 1.5, min: 0, max: 1000, soft: [0, 8], animated: true },
      help: 'How much it dims through its middle, as an optical depth: 1 lets a third of the light through, 5 nearly none.',
    }),
    ragged: number({ ...share, label: 'Ragged', default: 55, help: 'How deep its edge is torn.' }),
    lumps: number({
      ...{ label: 'Lumps', unit: '×', default: 0.7, min: 0.1, max: 10, soft: [0.2, 2], animated: true },
      help: 'How large its lumps are, in radii. They turn with the particle.',
    }),
    softness: number({ ...share, label: 'Softness', default: 50, help: 'How gently it thins out towards its edge.' }),
    shade: number({
      ...{ label: 'Shades', unit: '%', default: 100, min: 0, max: 400, soft: [0, 200], animated: true },
      help: 'How strongly tufts throw shadow on each other and on objects.',
    }),
    again: number({
      ...{ ...share, label: 'Scatters again', default: 60 },
      help: 'How much light finds its way after more than one turn: without it dense clouds are black inside.',
    }),
    forward: number({
      ...{ label: 'Forward', unit: '', default: 0.2, min: -0.95, max: 0.95, soft: [-0.9, 0.9], animated: true },
      help: 'Whether light goes on forwards, above 0, or back. Henyey-Greenstein’s g.',
    }),
    surroundings: number({
      ...{ label: 'Surroundings', unit: '%', default: 100, min: 0, max: 1000, soft: [0, 200], animated: true },
      help: 'How much of the light of the surroundings reaches it.',
    }),
    shine: number({
      ...{ label: 'Shines', unit: '%', default: 0, min: 0, soft: [0, 100], animated: true },
      help: 'How much of its colour it gives by itself, as embers do, whatever light falls on it.',
    }),
    meets: number({
      ...{ label: 'Meets objects', unit: '×', default: 0.8, min: 0, max: 10, soft: [0, 2], animated: true },
      help: 'In radii: so far before an object it begins to fade, so that no edge shows where the two meet. 0 is hard.',
    }),
  },
  drawing: (p, t) => ({
    shape: 'tuft',
    softness: p.number('softness', t) / 100,
    tuft: {
      thickness: p.number('thickness', t),
      ragged: p.number('ragged', t) / 100,
      lumps: p.number('lumps', t),
      shade: p.number('shade', t) / 100,
      again: p.number('again', t) / 100,
      forward: p.number('forward', t),
      surroundings: p.number('surroundings', t) / 100,
      shine: p.number('shine', t) / 100,
      meets: p.number('meets', t),
    },
    // What one can see through a little hides what is behind; a card for blending says otherwise.
    ...{ inside: 'normal', onto: 'normal' },
  }),
  sentence: () => say`Tuft ${'thickness'} thick, ${'ragged'} ragged, shades ${'shade'}.`,
})
