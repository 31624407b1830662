import type { Param } from '../shot'
import { OUTLINE_PARAMS, TEXT_PARAMS } from './builtShapes'
import type { Sort } from './define'
import { BODY_PARAMS } from './elementParams'
import { CONSTANTS, FUNCTIONS } from './expression'
import { readerOf } from './reader'
import { actsOfSort } from './registry'
import { PRIMITIVES } from './shapes'

const SORTS: readonly { sort: Sort; title: string; words: string }[] = [
  {
    sort: 'source',
    title: 'Births',
    words: 'Cards of the Birth column. Where and how newborns start is the same for each; what differs is when.',
  },
  {
    sort: 'modulator',
    title: 'Modulators',
    words:
      'Right-click a number or a colour to add one. They work on top of the keys, in their order: added, multiplied, or instead. A wave or a wander that is multiplied is a share of the value to each side.',
  },
  {
    sort: 'reshape',
    title: 'Reshape',
    words:
      'Steps in the Shape column of an object, in their order. Sources and colliders have the reshaped geometry too; steps whose values move make it change shape while it plays.',
  },
  {
    sort: 'copies',
    title: 'Copies',
    words:
      'Of an object: its reshaped geometry again and again, so that sources and colliders have all of them. Of a system: the simulated whole drawn again and again. Several arrangements build on one another.',
  },
  {
    sort: 'region',
    title: 'Regions',
    words:
      'Steps of a named region of an object, in their order. A region gives every point of the surface an amount from 0 to 1. On an object with regions long edges are cut, to a 48th of its longest side, so that soft edges can be drawn.',
  },
  {
    sort: 'force',
    title: 'Movement',
    words:
      'Forces: cards of one system, or elements that reach several, each by its share. In the order of the list: those of the shot first, then those of the whole life, then those of the phase.',
  },
  { sort: 'limit', title: 'Limits', words: 'Of a force: where, when and on whom it acts. Several limits are all in force.' },
  { sort: 'contact', title: 'Contact', words: 'What happens where a particle meets a collider.' },
  { sort: 'ending', title: 'Endings', words: 'Among the cards of Contact: what takes particles out before their life is over.' },
  {
    sort: 'turn',
    title: 'Turns',
    words:
      'Ways out of a phase. Those of a phase are tried in their order, one a substep and particle, when motion and contact are done. Where a turn leads the time in the phase starts anew, at the very moment at which its conditions came true.',
  },
  {
    sort: 'condition',
    title: 'Conditions',
    words:
      'What a turn waits for. Time, age, moments and contacts are known to the moment, also within a substep; anything else counts as the substep ends. Limits are conditions too: true where they let at least half through.',
  },
  {
    sort: 'offspring',
    title: 'Offspring',
    words:
      'What particles leave behind, in the whole life or in one phase. How it is drawn may change without running the simulation again.',
  },
  { sort: 'look', title: 'Look', words: 'How particles are drawn. A change here never runs the simulation again.' },
  {
    sort: 'feed',
    title: 'Sources of a gas',
    words: 'Cards of the Sources column of a gas: objects and systems bring density, heat, fuel and velocity into it, or take gas away.',
  },
  {
    sort: 'flow',
    title: 'Motion and burning of a gas',
    words: 'How a gas flows by itself, and how its fuel burns. Among them stand forces, which act on it as on particles.',
  },
  {
    sort: 'gasLook',
    title: 'Look of a gas',
    words:
      'How a gas dims, scatters and shines. The grid that drives it goes through the curve and the ramp that the strip over the columns shows. A change here never runs the simulation again.',
  },
  { sort: 'finish', title: 'Finish', words: 'What happens to the picture after drawing.' },
]
const cell = (s: string) => s.replaceAll('|', '\\|')
function range(p: Param): string {
  switch (p.type) {
    case 'number': {
      const end = (v: number | undefined) => (v === undefined ? '…' : String(v))
      return p.min === undefined && p.max === undefined ? 'any' : `${end(p.min)} to ${end(p.max)}`
    }
    case 'choice':
      return p.options.map((o) => `\`${o.value}\``).join(', ')
    case 'switch':
      return 'true, false'
    case 'vector':
      return 'three numbers'
    case 'colour':
      return 'linear red, green, blue'
    case 'ref':
      return `id; null: ${p.empty}`
    case 'value':
      return 'an element and a value of it'
    case 'refs':
      return `ids; empty: ${p.empty}`
    case 'points':
      return 'at least two points of three numbers'
    case 'outline':
      return 'at least three corners: across and up, −1 to 1, and how round, 0 to 1'
    case 'curve':
      return `points at 0 (${p.from}) to 1 (${p.to}), 0 to ${p.max}`
    case 'names':
      return 'names, each with an element and a value'
    default:
      return 'text'
  }
}
const can = (p: Param): string =>
  [
    ('animated' in p && p.animated && 'moves') || '',
    (p.type === 'number' && p.varied && '±') || '',
    (p.type === 'number' && p.empty !== undefined && `may be empty: ${p.empty}`) || '',
  ]
    .filter(Boolean)
    .join(', ')
/** As it is stored: a curve in shares. */
const unitOf = (p: Param): string => (p.type === 'curve' ? '×' : 'unit' in p ? p.unit : '')
function byDefault(p: Param): string {
  if (p.default === null) return ''
  if (p.type === 'curve') return p.default.points.map((q) => `${q.v} at ${q.at}`).join(', ')
  return Array.isArray(p.default) ? p.default.join(', ') : String(p.default)
}
const table = (params: Record<string, Param>): string[] => [
  '| field | unit | default | range | can | what |',
  '|---|---|---|---|---|---|',
  ...Object.entries(params).map(
    ([name, p]) => `| \`${name}\` | ${unitOf(p)} | ${cell(byDefault(p))} | ${cell(range(p))} | ${can(p)} | ${cell(p.help)} |`,
  ),
]

/**
 * The reference of the manual, made from the registry. `bin/ember manual` prints it; docs/reference.md is this text, and a test holds it.
 */
export function manual(): string {
  const out = [
    '# Reference',
    '',
    'Made from the lists in `src/acts` by `bin/ember manual > docs/reference.md`; not written by hand. “moves” means: may have keys, and modulators where it is a number or a colour. “±” means: varies from particle to particle, from the seed.',
    '',
  ]
  for (const { sort, title, words } of SORTS) {
    out.push(`## ${title}`, '', words, '')
    for (const act of actsOfSort(sort)) {
      const doc = {
        id: act.kind,
        kind: act.kind,
        seed: 0,
        ...Object.fromEntries(Object.entries(act.params).map(([k, p]) => [k, p.default])),
      }
      const sentence = act
        .sentence(readerOf(doc as never))
        .map((x) => (typeof x === 'string' ? x : 'text' in x ? x.text : `[${act.params[x.param].label.toLowerCase()}]`))
        .join('')
      out.push(`### ${act.title} \`${act.kind}\``, '', `${act.help} As a sentence: ${sentence}`, '', ...table(act.params), '')
    }
  }
  out.push('## Shapes', '', 'Objects that are made from numbers.', '')
  for (const p of PRIMITIVES) out.push(`### ${p.title} \`${p.kind}\``, '', p.help, '', ...table(p.params), '')
  out.push('### Drawing `outline`', '', 'Filled outlines of an SVG file with depth.', '', ...table(OUTLINE_PARAMS), '')
  out.push('### Text `text`', '', 'Letters with depth and a rounded rim.', '', ...table(TEXT_PARAMS), '')
  out.push(
    '## Thrown objects',
    '',
    'Of an object with a `body`: from a moment on forces of the shot and colliders move it.',
    '',
    ...table(BODY_PARAMS),
    '',
  )
  out.push(
    '## Formulas',
    '',
    'Of the modulator Expression. Numbers, + − * / % ^, < > <= >= (1 or 0), brackets, names and functions. Lengths are metres, times seconds, angles degrees.',
    '',
    '| name | what |',
    '|---|---|',
    ...Object.entries(CONSTANTS).map(([k, v]) => `| \`${k}\` | ${v} |`),
    ...Object.values(FUNCTIONS).map(
      (f) => `| \`${f.help.split(':')[0]}\` |${f.help.includes(':') ? f.help.slice(f.help.indexOf(':') + 1) : ' of an angle in degrees'} |`,
    ),
    '',
  )
  return out.join('\n')
}
