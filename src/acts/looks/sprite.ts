import { choice, number, ref, toggle } from '../../shot'
import { defineLook, say } from '../define'

/** Each particle as a picture. */
export const sprite = defineLook({
  kind: 'sprite',
  role: 'draw',
  title: 'Sprite',
  help: 'A picture on each particle: of a PNG, JPEG or WebP file, a sheet of frames, or numbered files in turn.',
  synonyms: ['texture', 'image', 'billboard', 'sheet', 'flipbook', 'card', 'decal', 'sequence'],
  params: {
    object: ref({
      ...{ label: 'Picture', to: 'object', default: null, empty: 'none' },
      help: 'The object whose picture it is: drop a file into the View to make one. It may be hidden itself.',
    }),
    columns: number({
      ...{ label: 'Columns', unit: '', default: 1, min: 1, max: 64, integer: true, soft: [1, 8] },
      help: 'Of frames in the picture, from the left; 1 where it is one picture, or each file is a frame.',
    }),
    rows: number({
      ...{ label: 'Rows', unit: '', default: 1, min: 1, max: 64, integer: true, soft: [1, 8] },
      help: 'Of frames, from the top.',
    }),
    by: choice({
      label: 'Frame',
      default: 'life',
      options: [
        { value: 'life', label: 'over life', help: 'Once through all of them.' },
        { value: 'rate', label: 'by a rate', help: 'Again and again.' },
        { value: 'random', label: 'at random', help: 'Each particle keeps one of its own.' },
        { value: 'fixed', label: 'always one' },
      ],
      help: 'Which frame a particle shows.',
    }),
    rate: number({
      ...{ label: 'Rate', unit: '1/s', default: 12, min: 0, soft: [0, 30], when: { param: 'by', is: ['rate'] } },
      help: 'Frames per second of its age.',
    }),
    frame: number({
      ...{
        label: 'Number',
        unit: '',
        default: 1,
        min: 1,
        max: 4096,
        integer: true,
        soft: [1, 16],
        when: { param: 'by', is: ['fixed', 'rate'] },
      },
      help: 'The frame that it shows, or begins with.',
    }),
    faces: choice({
      label: 'Faces',
      default: 'camera',
      options: [
        { value: 'camera', label: 'the camera' },
        { value: 'motion', label: 'the camera, along its motion', help: 'Its upper edge leads.' },
        { value: 'upright', label: 'the camera, upright', help: 'It turns about Y alone.' },
        { value: 'spin', label: 'as it spins', help: 'By the movement Spin; without it each in a way of its own.' },
      ],
      help: 'How it is turned.',
    }),
    roll: toggle({
      ...{ label: 'Rolled', default: false, when: { param: 'faces', is: ['camera'] } },
      help: 'Each by an angle of its own.',
    }),
    meets: number({
      ...{ label: 'Meets objects', unit: '×', default: 0, min: 0, max: 10, soft: [0, 2], animated: true },
      help: 'In half widths: so far before an object it begins to fade. 0 is hard.',
    }),
  },
  drawing: (p, t, seed) => ({
    shape: 'sprite',
    softness: 0,
    sprite: {
      ...{ object: p.text('object') || null, columns: p.number('columns'), rows: p.number('rows'), by: p.choice('by') },
      ...{ rate: p.number('rate'), frame: p.number('frame') - 1, faces: p.choice('faces') },
      ...{ roll: p.on('roll'), meets: p.number('meets', t), seed },
    },
    // What one can see through a little hides what is behind; a card for blending says otherwise.
    ...{ inside: 'normal', onto: 'normal' },
  }),
  sentence: () => say`Picture of ${'object'}, frame ${'by'}, faces ${'faces'}.`,
})
