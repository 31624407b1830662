import { number } from '../../shot'

/** How far before an object what is drawn fades, as dots, dashes and flakes have it. */
export const meetsParam = number({
  ...{ label: 'Meets', unit: '×', default: 0, min: 0, soft: [0, 10], animated: true, synonyms: ['soft particles', 'intersection', 'fade'] },
  help: 'In half widths: so far before an object it begins to fade. 0 is hard.',
})
