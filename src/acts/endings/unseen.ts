import { number } from '../../shot'
import { defineEnding, say } from '../define'

export const unseen = defineEnding({
  kind: 'unseen',
  title: 'Ends out of view',
  help: 'Takes particles out that leave what the shot’s camera sees.',
  synonyms: ['kill', 'cull', 'frustum', 'camera'],
  reads: ['camera'],
  params: {
    margin: number({
      label: 'Margin',
      unit: '%',
      default: 10,
      min: 0,
      max: 1000,
      soft: [0, 100],
      animated: true,
      help: 'Room around the picture, of its width, in which they live on.',
    }),
  },
  sentence: () => say`Ends out of the camera’s view, ${'margin'} beyond the picture.`,
  planes: (p, t, site) => site.view(t, 1 + (2 * p.number('margin', t)) / 100),
})
