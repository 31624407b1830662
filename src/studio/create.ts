import { type Act, actOf, dyeTones, GLOW_PARAMS, LAYER_PARAMS, LIGHT_PARAMS, MASK_PARAMS, straightTone } from '../acts'
import {
  type ActDoc,
  type CameraDoc,
  type ControlDoc,
  defaultsOf,
  type ForceDoc,
  type GasDoc,
  type GlowDoc,
  type LayerDoc,
  type LightDoc,
  type LookDoc,
  type MaskDoc,
  newId,
  newSeed,
  type ObjectDoc,
  SHOT_VERSION,
  type Shape,
  type Shot,
  type SystemDoc,
} from '../shot'

export const freeName = (shot: Shot, name: string): string => {
  const names = new Set(
    [
      ...shot.objects,
      ...shot.systems,
      ...shot.gases,
      ...shot.forces,
      ...shot.lights,
      ...shot.glows,
      ...shot.cameras,
      ...shot.masks,
      ...shot.controls,
      ...shot.layers,
    ].map((e) => e.name),
  )
  let out = name
  for (let n = 2; names.has(out); n++) out = `${name} ${n}`
  return out
}
const holdsConditions = (a: Act): boolean => a.sort === 'turn' || (a.sort === 'condition' && !!a.groups)
export const newAct = (kind: string, values: Record<string, unknown> = {}): ActDoc => ({
  id: newId(kind),
  kind,
  seed: newSeed(),
  ...defaultsOf(actOf(kind).params),
  ...(actOf(kind).sort === 'force' ? { limits: [] } : {}),
  ...(holdsConditions(actOf(kind)) ? { when: [] } : {}),
  ...values,
})

export function newObject(shot: Shot, name: string, shape: Shape): ObjectDoc {
  return {
    id: newId('object'),
    name: freeName(shot, name),
    seed: newSeed(),
    shape,
    parent: null,
    place: [0, 0, 0],
    rotate: [0, 0, 0],
    scale: [1, 1, 1],
    seen: true,
    shadow: true,
    roles: { source: false, collider: shape.kind === 'plane' },
    sides: 'auto',
    thickness: 0,
    faces: 'no',
    metBy: 'faces',
    cells: 64,
    body: null,
    reshape: [],
    offspring: [],
    copies: [],
    regions: [],
    shown: 'full',
    material: { colour: [0.3, 0.3, 0.3], roughness: 0.6, metal: 0, glow: [0, 0, 0] },
  }
}
/** A look along a strip, from its head to its end: it cools, thins and fades. */
export const newTrailLook = (name: string): LookDoc => ({
  ...newLook(name),
  size: {
    points: [
      { at: 0, v: 1 },
      { at: 0.3, v: 0.7 },
      { at: 1, v: 0.1 },
    ],
  },
  opacity: {
    points: [
      { at: 0, v: 1 },
      { at: 0.4, v: 0.5 },
      { at: 1, v: 0 },
    ],
  },
})
export function newLook(name: string): LookDoc {
  return {
    id: newId('look'),
    name,
    colour: {
      stops: [
        { at: 0, colour: [1, 0.85, 0.55] },
        { at: 0.4, colour: [1, 0.35, 0.06] },
        { at: 1, colour: [0.12, 0.012, 0.002] },
      ],
    },
    size: {
      points: [
        { at: 0, v: 1 },
        { at: 1, v: 0.5 },
      ],
    },
    opacity: {
      points: [
        { at: 0, v: 1 },
        { at: 0.7, v: 0.9 },
        { at: 1, v: 0 },
      ],
    },
  }
}
/** A system that shows something at once: a steady rate from an object or the middle, gravity, contact with all colliders. */
export function newSystem(shot: Shot, source: string | null): { system: SystemDoc; look: LookDoc } {
  const name = freeName(shot, 'Sparks')
  const look = newLook(name)
  return {
    look,
    system: {
      id: newId('system'),
      name,
      seed: newSeed(),
      life: { value: 1.2, vary: 0.4 },
      endless: false,
      mass: 1,
      timeScale: 100,
      space: null,
      place: [0, 0, 0],
      rotate: [0, 0, 0],
      scale: [1, 1, 1],
      copies: [],
      limit: 2000000,
      layer: shot.layers[0].id,
      birth: [newAct('steady', { source, end: null, rate: 800 })],
      whole: {
        movement: [newAct('gravity')],
        contact: [newAct('bounce')],
        offspring: [],
        look: [newAct('overLife', { look: look.id, size: { value: 0.01, vary: 0.004 }, brightness: 4 }), newAct('dash'), newAct('blend')],
      },
      phases: [{ id: newId('phase'), name: 'Flying', movement: [], contact: [], offspring: [], look: [], blend: 0, turns: [] }],
    },
  }
}
/** A gas that shows smoke at once: fed by an object or by particles. `middle` and `size`: of the room that it may take up, m. */
export function newGas(shot: Shot, feed: ActDoc | null, middle: readonly number[], size: number, name = 'Smoke'): GasDoc {
  const round = (x: number) => Number(x.toPrecision(2))
  return {
    id: newId('gas'),
    name: freeName(shot, name),
    seed: newSeed(),
    voxel: round(size / 40),
    place: [middle[0], middle[1] + size, middle[2]].map(round) as [number, number, number],
    size: [3, 3.6, 3].map((x) => round(x * size)) as [number, number, number],
    ...{ openLeft: true, openRight: true, openBelow: true, openAbove: true, openBack: true, openFront: true },
    ...{ steps: 4, stepping: 'speed', timeScale: 100, detail: 1, detailIn: 'renders', eddies: 100, rides: null },
    feeds: feed ? [feed] : [],
    motion: [newAct('rise'), newAct('curl'), newAct('fade')],
    burning: [],
    look: [newAct('smoke', { extinction: round(20 / size) })],
    tones: {
      density: straightTone(1, [
        { at: 0, colour: [0.05, 0.06, 0.08] },
        { at: 1, colour: [0.9, 0.92, 1] },
      ]),
      temperature: straightTone(1500, [
        { at: 0, colour: [0.2, 0.01, 0] },
        { at: 0.5, colour: [1, 0.25, 0.03] },
        { at: 1, colour: [1, 0.8, 0.4] },
      ]),
      flame: straightTone(1, [
        { at: 0, colour: [0.4, 0.03, 0] },
        { at: 0.4, colour: [1, 0.3, 0.04] },
        { at: 1, colour: [1, 0.75, 0.35] },
      ]),
      ...dyeTones(),
    },
  }
}
export const newForce = (shot: Shot, kind: string): ForceDoc => ({
  id: newId('force'),
  name: freeName(shot, actOf(kind).title),
  seed: newSeed(),
  act: newAct(kind),
  reaches: 'all',
  shares: [],
})
export const newLight = (shot: Shot): LightDoc => ({
  id: newId('light'),
  name: freeName(shot, 'Light'),
  seed: newSeed(),
  ...defaultsOf(LIGHT_PARAMS),
  strength: 20,
  asset: null,
  above: [0, 0, 0],
  below: [0, 0, 0],
  shares: [],
})
export const newCamera = (shot: Shot): CameraDoc => ({
  id: newId('camera'),
  name: freeName(shot, 'Camera'),
  seed: newSeed(),
  place: [0, 1, 4],
  aimsAt: null,
  aim: [0, 0.5, 0],
  lens: 35,
  sensor: 36,
  shiftX: 0,
  shiftY: 0,
  aperture: null,
  focus: null,
  focusAt: null,
  blades: 0,
  bladeTurn: 0,
  lensSamples: 48,
  lensWay: 'looks',
  shutter: null,
  shutterSamples: 12,
  roll: 0,
  plate: null,
  fit: 'fill',
  plateBright: 100,
  plateSaturation: 100,
  plateContrast: 100,
  plateTint: [1, 1, 1],
})

export const newGlow = (shot: Shot): GlowDoc => ({
  ...defaultsOf(GLOW_PARAMS),
  id: newId('glow'),
  name: freeName(shot, 'Glow'),
  seed: newSeed(),
})
export const newMask = (shot: Shot): MaskDoc => ({
  ...defaultsOf(MASK_PARAMS),
  id: newId('mask'),
  name: freeName(shot, 'Mask'),
  seed: newSeed(),
  camera: shot.camera,
})
const layerDefaults = () => defaultsOf(LAYER_PARAMS)
/** It covers, over everything, and is empty. */
export const newLayer = (shot: Shot): LayerDoc => ({
  ...layerDefaults(),
  id: newId('layer'),
  name: freeName(shot, 'Layer'),
  seed: newSeed(),
  finish: [],
})
export const newControl = (shot: Shot): ControlDoc => ({
  id: newId('control'),
  name: freeName(shot, 'Control'),
  seed: newSeed(),
  value: 1,
  unit: '',
})

/** An empty shot: a floor, a light, a camera. */
export function newShot(name: string): Shot {
  const shot: Shot = {
    version: SHOT_VERSION,
    name,
    rate: { num: 24, den: 1 },
    range: { first: 0, last: 72 },
    opens: null,
    size: { width: 1920, height: 1080 },
    seed: newSeed(),
    substeps: 2,
    warm: 0,
    loop: null,
    surroundings: { colour: [0, 0, 0], light: [0.08, 0.09, 0.11] },
    camera: 'camera',
    objects: [],
    systems: [],
    gases: [],
    forces: [],
    lights: [],
    cameras: [],
    glows: [],
    masks: [],
    controls: [],
    layers: [{ ...layerDefaults(), id: 'picture', name: 'Picture', seed: 1, finish: [newAct('bloom')] }],
    folders: [],
    shared: { looks: [] },
    assets: [],
  }
  shot.cameras.push({ ...newCamera(shot), id: 'camera' })
  shot.lights.push(newLight(shot))
  shot.objects.push({
    ...newObject(shot, 'Floor', { kind: 'plane', size: 10, endless: true }),
    material: { colour: [0.08, 0.08, 0.08], roughness: 0.7, metal: 0, glow: [0, 0, 0] },
  })
  return shot
}
