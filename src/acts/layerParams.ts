import { choice, number, type Params, ref, type Shot, toggle } from '../shot'

const picture = { changes: 'picture' } as const
/** How a layer goes over what was drawn before it. The first layer is the picture itself, and has no need of them. */
export const LAYER_PARAMS = {
  blend: choice({
    ...{ label: 'Blend', default: 'over', ...picture, synonyms: ['mode', 'composite', 'transfer'] },
    options: [
      { value: 'over', label: 'Covers', help: 'Where it is opaque it hides what is behind.' },
      { value: 'add', label: 'Adds', help: 'Its light is added.' },
      { value: 'screen', label: 'Screens', help: 'Its light is added, and never passes white.' },
      { value: 'multiply', label: 'Multiplies', help: 'What is behind is seen through its colour.' },
    ],
    help: 'How it joins what is behind.',
  }),
  opacity: number({
    ...{ label: 'Opacity', unit: '%', default: 100, min: 0, max: 100, soft: [0, 100], animated: true, ...picture },
    help: 'How much of it is seen.',
  }),
  lies: ref({
    ...{ label: 'Depth of', to: 'stuck', default: null, empty: 'over all', ...picture, synonyms: ['depth', 'in front', 'behind'] },
    help: 'It lies where the middle of this element is: what is nearer goes over it. Without, it goes over everything.',
  }),
  cut: choice({
    ...{ label: 'Cut by', default: 'none', ...picture, synonyms: ['mask', 'matte', 'track matte', 'stencil', 'holdout'] },
    options: [
      { value: 'none', label: 'Nothing', help: 'All of it is seen.' },
      { value: 'outline', label: 'A drawn mask', help: 'Which then hides nothing else.' },
      { value: 'object', label: 'An object', help: 'By its outline, seen or not.' },
      { value: 'layer', label: 'A layer', help: 'By how bright it is.' },
    ],
    help: 'What decides where it is seen.',
  }),
  cutMask: ref({
    ...{ label: 'Mask', to: 'mask', default: null, empty: 'nothing yet', ...picture, when: { param: 'cut', is: ['outline'] } },
    help: 'A drawn mask of the shot.',
  }),
  cutObject: ref({
    ...{ label: 'Object', to: 'object', default: null, empty: 'nothing yet', ...picture, when: { param: 'cut', is: ['object'] } },
    help: 'It may be hidden from the camera.',
  }),
  cutLayer: ref({
    ...{ label: 'Layer', to: 'layer', default: null, empty: 'nothing yet', ...picture, when: { param: 'cut', is: ['layer'] } },
    help: 'One that is drawn before this one; white and brighter shows all.',
  }),
  cutOutside: toggle({
    ...{ label: 'Outside', default: false, ...picture, when: { param: 'cut', is: ['outline', 'object', 'layer'] } },
    help: 'It is seen where it would not be.',
  }),
  cutFeather: number({
    ...{ label: 'Feather', unit: '%', default: 0, min: 0, max: 50, soft: [0, 10], animated: true, ...picture },
    ...{ when: { param: 'cut', is: ['object', 'layer'] } },
    help: 'How soft its edge is, of the picture’s height.',
  }),
} satisfies Params
/** The layer that an element is drawn in: its own, or the picture itself. */
export const layerOf = (shot: Pick<Shot, 'layers'>, e: { layer?: string | null }): string =>
  shot.layers.find((l) => l.id === e.layer)?.id ?? shot.layers[0].id
/** Layers beside the picture itself that show something, in their order: each goes over those before it. */
export const layersOver = (shot: Pick<Shot, 'layers'>) => shot.layers.slice(1).filter((l) => !l.muted)
