import { dequal } from 'dequal'
import { type Shot, sectionsOf } from '../shot'

/** What of a shot can be seen without simulating again. */
const visible = (s: Shot) => ({
  objects: s.objects,
  controls: s.controls,
  lights: s.lights,
  cameras: s.cameras,
  masks: s.masks,
  glows: s.glows,
  camera: s.camera,
  layers: s.layers,
  gases: s.gases.map((g) => [g.id, g.muted, g.look, g.tones]),
  shared: s.shared,
  surroundings: s.surroundings,
  size: s.size,
  rate: s.rate,
  range: s.range,
  systems: s.systems.map((x) => [
    x.id,
    x.muted,
    x.space,
    x.place,
    x.rotate,
    x.scale,
    x.copies,
    ...sectionsOf(x).flatMap((y) => [y.look, y.offspring]),
  ]),
})
/** Whether two states of a shot give the same picture of the same simulated frame. */
export const looksSame = (a: Shot, b: Shot): boolean => a === b || dequal(visible(a), visible(b))
