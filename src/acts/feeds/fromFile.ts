import type { GasDye } from '../../engine'
import { choice, number, ref, text } from '../../shot'
import { defineFeed, say } from '../define'

/** K of the air, which absolute temperatures have more. */
const AIR = 293
const grid = (label: string, found: string, channels: 1 | 3 = 1) =>
  text({ label, default: '', grid: { of: 'object', channels }, help: `Name of the grid of the file; empty: ${found}.` })
const times = (label: string, of: string) =>
  number({ label, unit: '×', default: 1, min: 0, soft: [0, 4], animated: true, help: `How many times ${of} that the file says.` })

/** A gas is what the volumes of a file say, frame by frame, in place of flowing. */
export const fromFile = defineFeed({
  kind: 'fromFile',
  title: 'From a file',
  help: 'The gas is what a VDB file holds, or a numbered row of them, where its object stands, with all copies of that; or that comes into it and flows on.',
  synonyms: ['vdb', 'volume', 'cache', 'import', 'openvdb', 'sequence', 'cloud'],
  params: {
    object: ref({
      ...{ label: 'Object', to: 'object', default: null, empty: 'nothing yet', gone: 'mute' },
      help: 'The object of the file: it says where the gas stands, how it is turned and scaled, its copies, and how its frames play.',
    }),
    comes: choice({
      label: 'The gas',
      default: 'is',
      options: [
        { value: 'is', label: 'is it', help: 'It does not flow: in each frame it is what the file says.' },
        { value: 'add', label: 'gets it', help: 'So much as the file says comes in every second, and flows on.' },
        { value: 'set', label: 'is set to it', help: 'Where the file holds something the gas is made that, and flows on.' },
        { value: 'most', label: 'has at least it', help: 'Where there is less it is raised to what the file says, and flows on.' },
      ],
      help: 'Whether the gas is what the file says, or flows and is fed by it.',
    }),
    start: number({
      ...{ label: 'From', unit: 's', default: 0, min: 0, moment: true, when: { param: 'comes', is: ['add', 'set', 'most'] } },
      help: 'It begins here.',
    }),
    end: number({
      ...{ label: 'Until', unit: 's', default: 0.5, min: 0, moment: true, empty: 'the end', given: true },
      ...{ when: { param: 'comes', is: ['add', 'set', 'most'] }, help: 'It ends here; empty: it goes on to the end of the shot.' },
    }),
    density: grid('Density', 'the one named density, or the first of smoke'),
    densityTimes: times('Density by', 'the density'),
    heat: grid('Heat', 'the one named temperature or heat'),
    heatIs: choice({
      label: 'Heat is',
      default: 'kelvin',
      options: [
        { value: 'kelvin', label: 'in kelvin', help: 'The air around has 293 K.' },
        { value: 'over', label: 'K over the air', help: 'The air around has 0.' },
        { value: 'share', label: 'from 0 to 1', help: 'Of 1,000 K over the air.' },
      ],
      help: 'What its numbers say.',
    }),
    heatTimes: times('Heat by', 'the heat'),
    flame: grid('Flame', 'the one named flame or flames'),
    flameTimes: times('Flame by', 'the flame'),
    velocity: grid('Velocity', 'the one named vel, velocity or v', 3),
    pushes: number({
      ...{ label: 'Pushes by', unit: '%', default: 0, min: 0, soft: [0, 100], animated: true, synonyms: ['momentum', 'inherit'] },
      when: { param: 'comes', is: ['add', 'set', 'most'] },
      help: 'Where its smoke comes in, the gas moves with so much of the velocity of the file; 0: it keeps its own.',
    }),
    hold: number({
      ...{ label: 'Held at', unit: '', default: 1, min: 1, integer: true, animated: true, empty: 'no frame', soft: [1, 100] },
      help: 'Only this one of its files, counted from 1; empty: they play as the object says.',
    }),
    from: number({
      ...{ label: 'Plays from', unit: '', default: 1, min: 1, integer: true, empty: 'its first', soft: [1, 100] },
      help: 'The first of its files that is played, counted from 1.',
    }),
    to: number({
      ...{ label: 'Plays to', unit: '', default: 1, min: 1, integer: true, empty: 'its last', soft: [1, 100] },
      help: 'The last of its files that is played.',
    }),
    dyeA: number({
      ...{ label: 'Dye A', unit: '%', default: 0, min: 0, soft: [0, 100], animated: true, synonyms: ['tint', 'colour'] },
      help: 'So much of its density is also in dye A, which the look may give a colour.',
    }),
    dyeB: number({
      ...{ label: 'Dye B', unit: '%', default: 0, min: 0, soft: [0, 100], animated: true, synonyms: ['tint', 'colour'] },
      help: 'So much of its density is also in dye B, which the look may give a colour.',
    }),
    mixed: choice({
      label: 'Dyes are',
      default: 'even',
      options: [
        { value: 'even', label: 'the same in all', help: 'Every copy has as much.' },
        { value: 'apart', label: 'of each its own', help: 'Every copy has a share of them by chance, A and B apart.' },
      ],
      help: 'How copies differ in their colours.',
    }),
  },
  sentence: (p) => [
    ...(p.choice('comes') === 'is'
      ? say`Is what the file of ${'object'} holds`
      : say`What the file of ${'object'} holds comes in until ${'end'}`),
    ...(p.number('densityTimes') === 1 ? ['.'] : say`, ${'densityTimes'} as dense.`),
  ],
  from: (p) => ({ object: p.text('object'), skin: false }),
  dyes: (p) => (['dyeA', 'dyeB'] as const).filter((d) => p.raw(d) !== 0) as GasDye[],
  window: (p) =>
    p.choice('comes') === 'is' ? [0, Number.POSITIVE_INFINITY] : [p.number('start'), p.optional('end') ?? Number.POSITIVE_INFINITY],
  feed: () => ({
    ...{ reach: 0, amounts: {}, own: 0, outwards: 0, direction: [0, 0, 0], lead: 0, breakUp: 0, breakSize: 1, breakPhase: 0 },
  }),
  stored: (p, t) => {
    const share = p.choice('heatIs')
    const per = share === 'share' ? 1000 : 1
    const comes = p.choice('comes')
    return {
      comes: comes === 'is' ? null : comes,
      grids: { density: p.text('density') ?? '', heat: p.text('heat') ?? '', flame: p.text('flame') ?? '' },
      velocity: p.text('velocity') ?? '',
      pushes: p.number('pushes', t) / 100,
      density: p.number('densityTimes', t),
      heat: p.number('heatTimes', t) * per,
      less: share === 'kelvin' ? AIR * p.number('heatTimes', t) : 0,
      flame: p.number('flameTimes', t),
      dyes: { dyeA: p.number('dyeA', t) / 100, dyeB: p.number('dyeB', t) / 100 },
      apart: p.choice('mixed') === 'apart',
      hold: p.optional('hold', t),
      part: [p.optional('from'), p.optional('to')],
    }
  },
})
