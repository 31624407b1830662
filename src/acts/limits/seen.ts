import { encodeLimitPlanes } from '../../engine'
import { number } from '../../shot'
import { defineLimit, say, word } from '../define'
import { ONLY, sideParam } from './common'

/** On what the shot's camera sees, in its picture and at any distance before it. */
export const limitSeen = defineLimit({
  kind: 'limitSeen',
  ofPlaces: true,
  title: 'In view',
  help: 'Where the shot’s camera looks, whatever stands in between.',
  synonyms: ['camera', 'frustum', 'on screen', 'visible'],
  reads: ['camera'],
  params: {
    margin: number({
      label: 'Margin',
      unit: '%',
      default: 0,
      min: -49,
      max: 1000,
      soft: [-20, 100],
      animated: true,
      help: 'Room around the picture, of its width, that counts as seen.',
    }),
    side: sideParam,
  },
  sentence: (p) => say`${word(ONLY[p.choice('side')], 'side')} where the camera looks, ${'margin'} beyond the picture.`,
  encode(w, p, at, _seed, site) {
    encodeLimitPlanes(w, site.view(at.t0, 1 + (2 * p.number('margin', at.t0)) / 100), p.choice('side') === 'outside')
  },
})
