// Gases to start from: fire and smoke at the scale of what is selected.
import type { ActDoc, GasDoc, ObjectDoc, Shot } from '../shot'
import { newAct, newGas, newObject } from './create'
import type { Recipe } from './recipes'

const rounded = (v: number): number => Number(v.toPrecision(2))
/** Lengths grow with the size; speeds so that everything rises as it should at that size, and times with both. */
const scales = (size: number) => ({
  m: (v: number) => rounded(v * size),
  speed: (v: number) => rounded(v * Math.sqrt(size)),
  s: (v: number) => rounded(v * Math.sqrt(size)),
  /** Of what is given by the second. */
  rate: (v: number) => rounded(v / Math.sqrt(size)),
  perMetre: (v: number) => rounded(v / size),
})
type Scales = ReturnType<typeof scales>
interface Fed {
  /** Puts the middle of its bounds so far from what feeds it, in sizes. */
  at(x: number, y: number): [number, number, number]
  gas: GasDoc
  objects: ObjectDoc[]
}
/** A gas over what feeds it: the object that is selected, or a small unseen one that comes with it. */
function over(
  shot: Shot,
  source: string | null,
  size: number,
  name: string,
  voxels: number,
  bed: readonly [number, number, number],
): Fed & { object: string } {
  const from = shot.objects.find((o) => o.id === source)
  const made: ObjectDoc[] = []
  let middle = [0, 0, 0]
  if (from) middle = from.place.map((p) => (typeof p === 'number' ? p : 0))
  else {
    const o = newObject(shot, `${name}, source`, {
      kind: 'box',
      ...{ width: rounded(bed[0] * size), height: rounded(bed[1] * size), depth: rounded(bed[2] * size) },
    })
    made.push({ ...o, place: [0, rounded(0.5 * bed[1] * size), 0], seen: false, shadow: false, roles: { source: true, collider: false } })
  }
  const gas = newGas(shot, null, middle, size)
  const at = (x: number, y: number): [number, number, number] =>
    [middle[0] + x * size, middle[1] + y * size, middle[2]].map(rounded) as [number, number, number]
  return { at, object: from?.id ?? made[0].id, objects: made, gas: { ...gas, name, voxel: rounded(size / voxels), motion: [], look: [] } }
}
const smoke = (k: Scales, extinction: number, o: Record<string, unknown> = {}): ActDoc =>
  newAct('smoke', { extinction: k.perMetre(extinction), ...o })
/** Eddies within the gas alone: everywhere, they would stir up the whole room. */
const eddies = (k: Scales, strength: number, eddy: number, where: 'heat' | 'density' = 'heat'): ActDoc => ({
  ...newAct('turbulence', { strength: rounded(strength), eddy: k.m(eddy), octaves: 3, renewal: k.rate(1.5) }),
  limits: [newAct('limitGas', where === 'heat' ? { grid: 'temperature', from: 60, to: 300 } : { grid: 'density', from: 0.03, to: 0.3 })],
})

export const GAS_RECIPES: readonly Recipe[] = [
  {
    name: 'Camp fire',
    help: 'Tongues of flame that pinch off, with a little smoke above',
    synonyms: ['fire', 'flames', 'burning', 'torch', 'kiln'],
    make(shot, source, size) {
      const k = scales(size)
      const { gas, objects, object } = over(shot, source, size, 'Fire', 44, [0.6, 0.12, 0.5])
      gas.feeds = [
        newAct('fromObject', {
          ...{
            object,
            where: source ? 'skin' : 'inside',
            reach: k.m(0.03),
            end: null,
            densityHow: 'none',
            temperatureHow: 'set',
            temperature: 700,
          },
          ...{
            fuelHow: 'set',
            fuel: 1,
            own: 100,
            direction: [0, k.speed(0.4), 0],
            breakUp: 100,
            breakSize: k.m(0.15),
            breakRate: k.rate(4),
          },
        }),
      ]
      gas.motion = [
        newAct('rise'),
        eddies(k, 13, 0.32),
        newAct('curl', { strength: 0.5 }),
        newAct('fade', { density: k.s(3), heat: k.s(0.9), radiation: k.rate(500) }),
      ]
      gas.burning = [newAct('burn', { ignition: 200, rate: k.rate(2.6), heat: 1500, swells: 1.2, soot: 0.4, life: k.s(0.07) })]
      gas.look = [smoke(k, 9, { colour: [0.42, 0.4, 0.38] }), newAct('glow', { coldest: 950, hottest: 2100, strength: k.perMetre(7) })]
      return { objects, systems: [], looks: [], gases: [gas] }
    },
  },
  {
    name: 'Candle',
    help: 'One smooth tongue',
    synonyms: ['flame', 'torch', 'lamp', 'lighter'],
    make(shot, source, size) {
      const k = scales(size)
      const { gas, objects, object, at } = over(shot, source, size, 'Candle flame', 40, [0.14, 0.1, 0.14])
      gas.size = [1.2, 2.4, 1.2].map((x) => k.m(x)) as [number, number, number]
      gas.place = at(0, 1.1)
      gas.feeds = [
        newAct('fromObject', {
          ...{
            object,
            where: source ? 'skin' : 'inside',
            reach: k.m(0.03),
            end: null,
            densityHow: 'none',
            temperatureHow: 'set',
            temperature: 900,
          },
          ...{ fuelHow: 'set', fuel: 1, direction: [0, k.speed(0.5), 0], breakUp: 0 },
        }),
      ]
      gas.motion = [
        newAct('rise', { heat: 0.8 }),
        eddies(k, 0.6, 0.8),
        newAct('fade', { density: k.s(0.5), heat: k.s(0.5), radiation: k.rate(300) }),
      ]
      gas.burning = [newAct('burn', { ignition: 200, rate: k.rate(2.4), heat: 1300, swells: 0.2, soot: 0, life: k.s(0.08) })]
      gas.look = [newAct('glow', { coldest: 1100, hottest: 2100, strength: k.perMetre(9) })]
      return { objects, systems: [], looks: [], gases: [gas] }
    },
  },
  {
    name: 'Chimney smoke',
    help: 'Pale billows that the wind takes along',
    synonyms: ['smoke', 'steam', 'stack', 'plume', 'exhaust'],
    make(shot, source, size) {
      const k = scales(size)
      const { gas, objects, object, at } = over(shot, source, size, 'Chimney smoke', 20, [0.5, 0.2, 0.5])
      gas.size = [8, 6, 4].map((x) => k.m(x)) as [number, number, number]
      gas.place = at(2.5, 2.6)
      gas.feeds = [
        newAct('fromObject', {
          ...{
            object,
            where: source ? 'skin' : 'inside',
            reach: k.m(0.06),
            end: null,
            densityHow: 'set',
            density: 1,
            temperatureHow: 'set',
          },
          ...{ temperature: 60, direction: [0, k.speed(1.8), 0], breakUp: 55, breakSize: k.m(0.4), breakRate: k.rate(2) },
        }),
      ]
      gas.motion = [
        newAct('rise'),
        newAct('wind', { speed: k.speed(0.9), response: k.s(0.4), eddy: k.m(1.6) }),
        eddies(k, 2.2, 1, 'density'),
        newAct('curl', { strength: 0.35 }),
        newAct('fade', { density: k.s(7), heat: k.s(5) }),
      ]
      gas.look = [smoke(k, 6, { colour: [0.86, 0.85, 0.84], again: 75 })]
      return { objects, systems: [], looks: [], gases: [gas] }
    },
  },
  {
    name: 'Blast',
    help: 'Fireballs that burst, roll and turn to dark smoke',
    synonyms: ['explosion', 'fireball', 'bomb', 'detonation'],
    make(shot, source, size) {
      const k = scales(size)
      const { gas, objects, object, at } = over(shot, source, size, 'Fireball', 26, [0.4, 0.3, 0.4])
      gas.size = [6, 6, 6].map((x) => k.m(x)) as [number, number, number]
      gas.place = at(0, 2.4)
      gas.feeds = [
        newAct('fromObject', {
          ...{ object, where: source ? 'skin' : 'inside', reach: k.m(0.15), start: 0.2, end: 0.45, densityHow: 'set', density: 1 },
          ...{ temperatureHow: 'set', temperature: 1500, fuelHow: 'set', fuel: 4, outwards: k.speed(6), direction: [0, k.speed(2.5), 0] },
          ...{ lead: 0.05, breakUp: 100, breakSize: k.m(0.22), breakRate: 3 },
        }),
      ]
      gas.motion = [
        newAct('rise', { heat: 1.2, weight: 0.01 }),
        eddies(k, 22, 0.9, 'density'),
        newAct('curl', { strength: 0.5 }),
        newAct('fade', { density: k.s(5), heat: k.s(1.3), radiation: k.rate(900) }),
      ]
      gas.burning = [newAct('burn', { rate: k.rate(2.6), heat: 1300, swells: 4, soot: 1.6, life: k.s(0.15) })]
      gas.look = [smoke(k, 9, { colour: [0.3, 0.28, 0.27] }), newAct('glow', { coldest: 900, hottest: 2300, strength: k.perMetre(10) })]
      return { objects, systems: [], looks: [], gases: [gas] }
    },
  },
  {
    name: 'Ground mist',
    help: 'A thin layer that creeps over the ground',
    synonyms: ['fog', 'haze', 'dry ice', 'low cloud'],
    make(shot, source, size) {
      const k = scales(size)
      const { gas, objects, object, at } = over(shot, source, size, 'Ground mist', 16, [2.6, 0.12, 2.6])
      gas.size = [6, 1.4, 6].map((x) => k.m(x)) as [number, number, number]
      gas.place = at(0, 0.55)
      gas.openBelow = false
      gas.feeds = [
        newAct('fromObject', {
          ...{
            object,
            where: source ? 'skin' : 'inside',
            reach: k.m(0.05),
            end: null,
            densityHow: 'most',
            density: 0.8,
            temperatureHow: 'none',
          },
          ...{ lead: null, breakUp: 80, breakSize: k.m(0.6), breakRate: k.rate(0.5) },
        }),
      ]
      gas.motion = [
        newAct('rise', { heat: 0, weight: 0.12 }),
        newAct('wind', { speed: k.speed(0.25), response: k.s(1.2), eddy: k.m(1.5) }),
        eddies(k, 0.5, 0.8, 'density'),
        newAct('fade', { density: k.s(6), heat: null }),
      ]
      gas.look = [smoke(k, 1.6, { colour: [0.92, 0.94, 0.97], again: 80, forward: 0.55 })]
      return { objects, systems: [], looks: [], gases: [gas] }
    },
  },
  {
    name: 'Smoke ring',
    help: 'A puff through a round mouth that rolls up and travels',
    synonyms: ['vortex ring', 'puff', 'toroid'],
    make(shot, source, size) {
      const k = scales(size)
      const { gas, objects, object } = over(shot, source, size, 'Smoke ring', 40, [0.3, 0.1, 0.3])
      gas.feeds = [
        newAct('fromObject', {
          ...{ object, where: source ? 'skin' : 'inside', reach: k.m(0.03), start: 0.1, end: 0.28, densityHow: 'set', density: 1.5 },
          ...{ temperatureHow: 'none', direction: [0, k.speed(3.2), 0], lead: 0.03, breakUp: 0 },
        }),
      ]
      gas.motion = [newAct('curl', { strength: 0.1 }), newAct('fade', { density: k.s(8), heat: null })]
      gas.look = [smoke(k, 14, { colour: [0.85, 0.85, 0.87], again: 70 })]
      return { objects, systems: [], looks: [], gases: [gas] }
    },
  },
]
