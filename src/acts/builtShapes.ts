import { choice, number, type OutlineShapeDoc, type Params, type Shape, type TextShapeDoc, text } from '../shot'
import { fixedLength as fixed } from './shapeParams'

/** Fonts that ship with the application: files in public/fonts, open under the SIL Open Font License. */
export const FONTS: readonly { id: string; name: string; file: string }[] = [
  { id: 'grenze-gotisch', name: 'Grenze Gotisch', file: 'grenze-gotisch.woff' },
  { id: 'figtree', name: 'Figtree', file: 'figtree.woff' },
]
export const TEXT_PARAMS = {
  text: text({ label: 'Text', default: 'Lantern Night', help: 'The letters; a line break begins a new line.' }),
  font: {
    type: 'font',
    label: 'Font',
    default: FONTS[0].id,
    changes: 'simulation',
    help: 'The letters’ shapes: a font that is shipped, or one of your own (TTF, OTF or WOFF) that was brought in.',
  },
  size: fixed('Size', 0.3, 'Of a line, from its highest to its lowest reach.'),
  depth: fixed('Depth', 0.06, 'From front to back.'),
  bevel: number({
    label: 'Bevel',
    unit: 'm',
    default: 0.006,
    min: 0,
    max: 100,
    soft: [0, 0.03],
    changes: 'simulation',
    help: 'How far the rounded rim reaches in; wider than half a stroke it crosses itself.',
  }),
  rings: number({
    label: 'Rim rings',
    unit: '',
    default: 2,
    min: 1,
    max: 16,
    soft: [1, 8],
    integer: true,
    changes: 'simulation',
    help: 'How finely the rim is rounded.',
  }),
  spacing: number({
    label: 'Spacing',
    unit: '×',
    default: 0,
    min: -1,
    max: 10,
    soft: [-0.1, 0.5],
    changes: 'simulation',
    help: 'More room between letters, in sizes.',
  }),
  leading: number({
    label: 'Leading',
    unit: '×',
    default: 1,
    min: 0,
    max: 10,
    soft: [0.6, 2],
    changes: 'simulation',
    help: 'From line to line, in sizes.',
  }),
  align: choice({
    label: 'Align',
    default: 'middle',
    options: [
      { value: 'left', label: 'left' },
      { value: 'middle', label: 'middle' },
      { value: 'right', label: 'right' },
    ],
    changes: 'simulation',
    help: 'Where its own middle is.',
  }),
  detail: number({
    label: 'Detail',
    unit: '',
    default: 4,
    min: 1,
    max: 32,
    soft: [2, 12],
    integer: true,
    changes: 'simulation',
    help: 'Straight pieces of each curve.',
  }),
} satisfies Params
export const OUTLINE_PARAMS = {
  size: fixed('Height', 0.5, 'Of the whole drawing.'),
  depth: TEXT_PARAMS.depth,
  bevel: TEXT_PARAMS.bevel,
  rings: TEXT_PARAMS.rings,
  detail: number({
    label: 'Detail',
    unit: '',
    default: 8,
    min: 1,
    max: 64,
    soft: [2, 24],
    integer: true,
    changes: 'simulation',
    help: 'Straight pieces of each curve.',
  }),
} satisfies Params
/** Under which name the mesh of an object that is built from a file and its numbers is kept; null for others. */
export const builtKey = (s: Shape): string | null => (s.kind === 'text' ? textKey(s) : s.kind === 'outline' ? outlineKey(s) : null)
const outlineKey = (s: OutlineShapeDoc): string => `outline ${JSON.stringify([s.asset, s.size, s.depth, s.bevel, s.rings, s.detail])}`
/** Under which name the mesh of letters is kept with those of the files. */
export const textKey = (s: TextShapeDoc): string =>
  `text ${JSON.stringify([s.font, s.text, s.size, s.depth, s.bevel, s.rings, s.spacing, s.leading, s.align, s.detail])}`
