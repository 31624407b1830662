import { choice, number, ref, toggle } from '../../shot'
import { defineLook, say } from '../define'

const OF_OBJECT = { param: 'body', is: ['object'] } as const
const BUILT_IN = { param: 'body', is: ['tetra', 'cube', 'octa', 'ball', 'plate', 'splinter'] } as const
const share = { unit: '%', min: 0, max: 100, soft: [0, 100], animated: true } as const
const other = (label: string, nth: string) =>
  ref({
    ...{ label, to: 'object', default: null, empty: 'none', when: OF_OBJECT },
    help: `A ${nth} body that some of the particles have instead.`,
  })
const weight = (of: string) =>
  number({
    ...{ label: 'Weight', unit: '', default: 1, min: 0, soft: [0, 10], when: OF_OBJECT },
    help: `How many have the ${of} one, against the other weights.`,
  })

/** Each particle as a body among the objects: in all lights, with shadows. */
export const solid = defineLook({
  kind: 'solid',
  role: 'draw',
  title: 'Solid',
  help: 'A body among the objects, in all lights, with shadows: a built-in one, or copies of objects of the shot.',
  synonyms: ['instance', 'mesh', 'copy', 'geometry', 'debris', 'shard', 'swarm', 'instancing', 'scatter'],
  params: {
    body: choice({
      label: 'Body',
      default: 'cube',
      options: [
        { value: 'tetra', label: 'four faces', help: 'A tetrahedron.' },
        { value: 'cube', label: 'cube' },
        { value: 'octa', label: 'eight faces', help: 'An octahedron.' },
        { value: 'ball', label: 'ball', help: 'Of 80 even faces, smooth.' },
        { value: 'plate', label: 'plate', help: 'A thin six-cornered one, as scales and ice have it.' },
        { value: 'splinter', label: 'splinter', help: 'Long and uneven.' },
        { value: 'object', label: 'an object', help: 'Of the shot, with its material; it may be hidden itself.' },
      ],
      help: 'What stands where each particle is.',
    }),
    object: ref({
      ...{ label: 'Object', to: 'object', default: null, empty: 'none', when: OF_OBJECT },
      help: 'Whose copies they are.',
    }),
    weight: weight('first'),
    second: other('Second', 'second'),
    weight2: weight('second'),
    third: other('Third', 'third'),
    weight3: weight('third'),
    fourth: other('Fourth', 'fourth'),
    weight4: weight('fourth'),
    picks: choice({
      label: 'Picked',
      default: 'weight',
      when: OF_OBJECT,
      options: [
        { value: 'weight', label: 'at random, by weight' },
        { value: 'turn', label: 'in turn, as they are born' },
      ],
      help: 'Which of the objects each particle has.',
    }),
    own: toggle({
      ...{ label: 'Own size', default: false, when: OF_OBJECT },
      help: 'As large as the object is, times the size over life. Off: its longest side is the size of the particle.',
    }),
    lies: choice({
      label: 'Lies',
      default: 'spin',
      options: [
        { value: 'spin', label: 'as it spins', help: 'By the movement Spin; without it each in a way of its own.' },
        { value: 'motion', label: 'along its motion', help: 'Its own Y leads.' },
        { value: 'upright', label: 'upright', help: 'As it is built.' },
      ],
      help: 'Which way it is turned.',
    }),
    moment: choice({
      label: 'Shows',
      default: 'now',
      when: OF_OBJECT,
      options: [
        { value: 'now', label: 'the object as it is now' },
        { value: 'birth', label: 'it at the frame of birth', help: 'Each as the object was when the particle was born.' },
        { value: 'later', label: 'it earlier or later', help: 'By a time of the artist’s choice, ± for each.' },
        { value: 'fixed', label: 'it at one moment', help: 'All of them, whatever the frame.' },
      ],
      help: 'Of an object that changes its shape over time: which moment of it.',
    }),
    later: number({
      ...{ label: 'Later by', unit: 's', default: 0, soft: [-2, 2], varied: true, when: { param: 'moment', is: ['later'] } },
      help: 'Below zero earlier; ± for each particle.',
    }),
    at: number({
      ...{ label: 'Moment', unit: 's', default: 0, soft: [0, 5], moment: true, when: { param: 'moment', is: ['fixed'] } },
      help: 'Which one.',
    }),
    stretch: number({
      ...{ label: 'Stretch', unit: 's', default: 0, min: 0, soft: [0, 0.1], animated: true },
      help: 'Longer along its own Y by the way that it goes in this time.',
    }),
    roughness: number({ ...share, label: 'Rough', default: 60, when: BUILT_IN, help: 'How dull it is; at 0 it mirrors the lights.' }),
    metal: number({ ...share, label: 'Metal', default: 0, when: BUILT_IN, help: 'How much it mirrors as metal does.' }),
    shine: number({
      ...{ label: 'Shines', unit: '%', default: 0, min: 0, soft: [0, 100], animated: true },
      help: 'How much of its colour it gives by itself, whatever light falls on it.',
    }),
    edge: number({
      ...{ label: 'Edges at least', unit: '', default: 0, min: 0, max: 100, soft: [0, 12], synonyms: ['level of detail', 'lod', 'pixels'] },
      help: 'Pixels in the picture: of what is far off faces are joined until their edges are about so long. At 0 all faces are drawn.',
    }),
    outside: choice({
      label: 'Out of view',
      default: 'drawn',
      options: [
        { value: 'drawn', label: 'drawn', help: 'It may throw shadows into the picture.' },
        { value: 'left', label: 'left out', help: 'It throws no shadows either.' },
      ],
      help: 'What is done with those that the picture does not show.',
    }),
    margin: number({
      ...{ label: 'Beyond', unit: '%', default: 10, min: 0, soft: [0, 50], when: { param: 'outside', is: ['left'] } },
      help: 'From so far outside of the picture on, as a share of it.',
    }),
  },
  drawing: (p, t, seed) => {
    const body = p.choice('body')
    const objects = (
      [
        ['object', 'weight'],
        ['second', 'weight2'],
        ['third', 'weight3'],
        ['fourth', 'weight4'],
      ] as const
    ).flatMap(([of, by]) => {
      const object = p.text(of)
      return object && p.number(by) > 0 ? [{ object, weight: p.number(by) }] : []
    })
    return {
      shape: 'solid',
      softness: 0,
      solid: {
        ...{
          body,
          objects: body === 'object' ? objects : [],
          own: body === 'object' && p.on('own'),
          inTurn: p.choice('picks') === 'turn',
          lies: p.choice('lies'),
          seed,
        },
        stretch: p.number('stretch', t),
        roughness: p.number('roughness', t) / 100,
        metal: p.number('metal', t) / 100,
        shine: p.number('shine', t) / 100,
        moment: body === 'object' ? p.choice('moment') : 'now',
        ...(p.choice('moment') === 'fixed'
          ? { later: p.number('at'), laterVary: 0 }
          : { later: p.number('later'), laterVary: p.vary('later') }),
        edge: p.number('edge'),
        outside: p.choice('outside') === 'left' ? p.number('margin') / 100 : null,
      },
    }
  },
  sentence: (p) => (p.choice('body') === 'object' ? say`Copies of ${'object'}, ${'lies'}.` : say`Solid: ${'body'}, ${'lies'}.`),
})
