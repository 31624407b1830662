import { choice, colour, number, type Params, toggle, vector } from '../shot'

/** Parameters of elements that are not acts; the board shows them with the same inputs. */
export const OBJECT_PARAMS: Params = {
  place: vector({ label: 'Place', unit: 'm', default: [0, 0, 0], animated: true, changes: 'simulation', help: 'Where it stands.' }),
  rotate: vector({ label: 'Rotate', unit: '°', default: [0, 0, 0], animated: true, changes: 'simulation', help: 'About X, Y and Z; Z first, then X, then Y.' }),
  scale: vector({ label: 'Scale', unit: '×', default: [1, 1, 1], animated: true, changes: 'simulation', help: 'Size along its own axes.' }),
  sides: choice({ label: 'Stops', default: 'auto', changes: 'simulation', options: [{ value: 'auto', label: 'as it is made', help: 'A closed mesh as a solid body, an open one from both sides.' }, { value: 'front', label: 'from outside', help: 'What is inside, or behind it, goes out freely.' }, { value: 'both', label: 'from both sides', help: 'As a thin sheet; also from inside a closed one.' }], help: 'As a collider: from which sides particles are stopped.' }),
  metBy: choice({ label: 'Met by', default: 'faces', changes: 'simulation', options: [{ value: 'faces', label: 'its faces', help: 'Exactly.' }, { value: 'grid', label: 'a grid of distances', help: 'Rounder and cheaper with very many triangles; for a closed mesh that keeps its shape.' }], help: 'As a collider: by what particles meet it.' }),
  cells: number({ label: 'Cells', unit: '', default: 64, min: 8, max: 256, soft: [16, 128], integer: true, changes: 'simulation', help: 'Of the grid of distances, along the longest side.' }),
  thickness: number({ label: 'Thickness', unit: 'm', default: 0, min: 0, soft: [0, 0.2], animated: true, changes: 'simulation', help: 'As a collider: particles are stopped this far off its surface.' }),
  seen: toggle({ label: 'Seen', default: true, animated: true, changes: 'picture', help: 'Seen by the camera. An unseen object still works as source and collider.' }),
}
/** Of an object that the simulation moves. */
export const BODY_PARAMS: Params = {
  at: number({ label: 'Let go at', unit: 's', default: 0, min: -3600, max: 36000, moment: true, changes: 'simulation', help: 'From this moment on forces and contact move it, and its keys no longer do.' }),
  velocity: vector({ label: 'Thrown', unit: 'm/s', default: [0, 0, 0], changes: 'simulation', help: 'Velocity that it is given then.' }),
  spin: vector({ label: 'Spin', unit: '°/s', default: [0, 0, 0], changes: 'simulation', help: 'How fast it then rotates about X, Y and Z of the shot.' }),
  inherit: number({ label: 'Inherits', unit: '%', default: 100, min: 0, max: 1000, soft: [0, 100], changes: 'simulation', help: 'Share of the velocity that its keys give it at that moment.' }),
  radius: number({ label: 'Radius', unit: 'm', default: 0.1, min: 0.001, soft: [0.02, 1], empty: 'from its shape', changes: 'simulation', help: 'It meets colliders as a ball about its middle. From its shape: half of the middle one of its three sizes.' }),
  mass: number({ label: 'Mass', unit: 'kg', default: 1, min: 1e-6, soft: [0.05, 20], changes: 'simulation', help: 'Drag and wind move a heavy one less.' }),
  keep: number({ label: 'Bounce', unit: '%', default: 40, min: 0, max: 100, soft: [0, 100], changes: 'simulation', help: 'Speed away from a collider that it keeps.' }),
  friction: number({ label: 'Friction', unit: '1', default: 0.3, min: 0, soft: [0, 1], changes: 'simulation', help: 'What slips along a collider is slowed by it, and turned until it rolls.' }),
  rolling: number({ label: 'Rolling', unit: '1', default: 0.02, min: 0, soft: [0, 0.5], changes: 'simulation', help: 'Speed lost while it rolls, for each part of speed lost into the collider: 0 rolls on for ever.' }),
}
export const MATERIAL_PARAMS: Params = {
  colour: colour({ label: 'Colour', default: [0.3, 0.3, 0.3], animated: true, changes: 'picture', help: 'Of the surface under white light.' }),
  roughness: number({ label: 'Roughness', unit: '1', default: 0.6, min: 0, max: 1, soft: [0, 1], animated: true, changes: 'picture', help: '0 mirrors, 1 is matt.' }),
  metal: number({ label: 'Metal', unit: '1', default: 0, min: 0, max: 1, soft: [0, 1], animated: true, changes: 'picture', help: '1 is bare metal.' }),
  glow: colour({ label: 'Glow', default: [0, 0, 0], animated: true, changes: 'picture', help: 'Light that the surface gives off.' }),
}
export const SYSTEM_PARAMS: Params = {
  life: number({ label: 'Life', unit: 's', default: 1.4, min: 1e-3, soft: [0.1, 10], animated: true, varied: true, changes: 'simulation', help: 'How long a particle lives.' }),
  place: vector({ label: 'Moved by', unit: 'm', default: [0, 0, 0], animated: true, changes: 'picture', help: 'Moves the simulated whole; nothing is simulated anew.' }),
  rotate: vector({ label: 'Rotate', unit: '°', default: [0, 0, 0], animated: true, changes: 'picture', help: 'Rotates the simulated whole about the middle of its space.' }),
  scale: vector({ label: 'Scale', unit: '×', default: [1, 1, 1], animated: true, changes: 'picture', help: 'Scales the simulated whole, its particles too.' }),
  endless: toggle({ label: 'Endless', default: false, changes: 'simulation', help: 'Lives do not end by themselves; the look stays as it is at their end.' }),
  mass: number({ label: 'Mass', unit: 'kg', default: 1, min: 1e-6, soft: [0.05, 5], animated: true, varied: true, changes: 'simulation', help: 'Of each particle: drag and wind move heavy ones less.' }),
  pace: number({ label: 'Time', unit: '%', default: 100, min: 0, max: 1000, soft: [0, 200], animated: true, changes: 'simulation', help: 'How fast time goes in it: half as fast at 50 %, held at 0 %. Births come by the time of the shot.' }),
  limit: number({ label: 'Limit', unit: '', default: 2000000, min: 1, max: 20000000, integer: true, changes: 'simulation', help: 'Most particles alive at once; at the limit births wait.' }),
}
export const LIGHT_PARAMS: Params = {
  kind: choice({ label: 'Kind', default: 'spot', changes: 'picture', options: [{ value: 'point', label: 'point' }, { value: 'spot', label: 'spot' }, { value: 'sun', label: 'sun' }], help: 'All ways from a point, a cone, or even from far away.' }),
  place: vector({ label: 'Place', unit: 'm', default: [2, 3, 2], animated: true, changes: 'picture', help: 'Where it hangs.' }),
  aim: vector({ label: 'Aim', unit: 'm', default: [0, 0, 0], animated: true, changes: 'picture', help: 'The point it looks at.' }),
  colour: colour({ label: 'Colour', default: [1, 1, 1], animated: true, changes: 'picture', help: 'Colour of the light.' }),
  strength: number({ label: 'Strength', unit: '×', default: 10, min: 0, soft: [0, 100], animated: true, changes: 'picture', help: 'Brightness at one metre; for a sun everywhere.' }),
  angle: number({ label: 'Angle', unit: '°', default: 40, min: 1, max: 89, soft: [1, 89], animated: true, changes: 'picture', help: 'Half angle of a spot.' }),
  shadow: toggle({ label: 'Shadows', default: true, changes: 'picture', help: 'Casts shadows. One light of the shot can; the first that asks does.' }),
}
export const CAMERA_PARAMS: Params = {
  place: vector({ label: 'Place', unit: 'm', default: [0, 1, 4], animated: true, changes: 'picture', help: 'Where the camera stands.' }),
  aim: vector({ label: 'Aim', unit: 'm', default: [0, 0.5, 0], animated: true, changes: 'picture', help: 'The point in the middle of the picture.' }),
  lens: number({ label: 'Lens', unit: 'mm', default: 35, min: 4, max: 1200, soft: [12, 200], animated: true, changes: 'picture', help: 'Focal length on a sensor 36 mm wide.' }),
}
export const CONTROL_PARAMS: Params = {
  value: number({ label: 'Value', unit: '', default: 1, soft: [0, 2], animated: true, changes: 'simulation', help: 'What the values that follow it read.' }),
}
