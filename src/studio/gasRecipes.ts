// Gases to start from: fire and smoke at the scale of what is selected.
import type { ActDoc, GasDoc, Shot, Vec3 } from '../shot'
import { newAct, newGas, newObject } from './create'
import { type Made, type Parts, type Recipe, systemOf } from './recipes'

const rounded = (v: number): number => Number(v.toPrecision(2))
const three = (v: readonly number[], by: (x: number) => number): Vec3 => v.map(by) as Vec3
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
interface GasRecipe extends Pick<Recipe, 'name' | 'help' | 'synonyms'> {
  /** What the gas is called. */
  called: string
  /** Voxels of a length of the size. */
  voxels: number
  /** Of the unseen box that feeds it where nothing is selected, in sizes. */
  bed: Vec3
  /** Its bounds, and how far their middle lies from what feeds it, to the right and above, in sizes. */
  room?: { size: Vec3; at: readonly [number, number] }
  /** Particles that feed it in place of the object, which they start from; nobody sees them. */
  powder?(k: Scales, source: string): Parts
  /** What its source brings beside the object itself. */
  feed(k: Scales): Record<string, unknown>
  parts(k: Scales): Partial<Pick<GasDoc, 'motion' | 'burning' | 'look' | 'openBelow'>>
}
/** A gas over what feeds it: the object that is selected, or a small unseen one that comes with it. */
function make(r: GasRecipe, shot: Shot, source: string | null, size: number): Made {
  const k = scales(size)
  const from = shot.objects.find((o) => o.id === source)
  const bed = newObject(shot, `${r.called}, source`, {
    kind: 'box',
    ...{ width: k.m(r.bed[0]), height: k.m(r.bed[1]), depth: k.m(r.bed[2]) },
  })
  bed.place = [0, k.m(0.5 * r.bed[1]), 0]
  const hidden = { ...bed, seen: false, shadow: false, roles: { source: true, collider: false } }
  const middle = from ? from.place.map((p) => (typeof p === 'number' ? p : 0)) : [0, 0, 0]
  const powder = r.powder ? systemOf(shot, `${r.called}, powder`, r.powder(k, (from ?? hidden).id)) : null
  const feed = powder
    ? newAct('fromParticles', { system: powder.id, end: null, ...r.feed(k) })
    : newAct('fromObject', {
        ...{ object: (from ?? hidden).id, where: from ? 'skin' : 'inside', reach: k.m(0.03), end: null },
        ...{ densityHow: 'none', temperatureHow: 'none', breakUp: 0 },
        ...r.feed(k),
      })
  const { room } = r
  const gas: GasDoc = {
    ...newGas(shot, feed, middle, size, r.called),
    ...{ voxel: rounded(size / r.voxels), motion: [], look: [] },
    ...(room && {
      size: three(room.size, k.m),
      place: three(
        [room.at[0], room.at[1], 0].map((x, a) => middle[a] + x * size),
        rounded,
      ),
    }),
    ...r.parts(k),
  }
  return { objects: from ? [] : [hidden], systems: powder ? [powder] : [], looks: [], gases: [gas] }
}
const smoke = (k: Scales, extinction: number, o: Record<string, unknown> = {}): ActDoc =>
  newAct('smoke', { extinction: k.perMetre(extinction), ...o })
/** Eddies within the gas alone: everywhere, they would stir up the whole room. */
const eddies = (k: Scales, strength: number, eddy: number, where: 'heat' | 'density' = 'heat'): ActDoc => ({
  ...newAct('turbulence', { strength: rounded(strength), eddy: k.m(eddy), octaves: 3, renewal: k.rate(1.5) }),
  limits: [newAct('limitGas', where === 'heat' ? { grid: 'temperature', from: 60, to: 300 } : { grid: 'density', from: 0.03, to: 0.3 })],
})
const wind = (k: Scales, speed: number, response: number, eddy: number): ActDoc =>
  newAct('wind', { speed: k.speed(speed), response: k.s(response), eddy: k.m(eddy) })
const fuelled = { temperatureHow: 'set', fuelHow: 'set' }

const ALL: readonly GasRecipe[] = [
  {
    name: 'Camp fire',
    help: 'Tongues of flame that pinch off, with a little smoke above',
    synonyms: ['fire', 'flames', 'burning', 'torch', 'kiln'],
    ...{ called: 'Fire', voxels: 44, bed: [0.6, 0.12, 0.5] },
    feed: (k) => ({
      ...{ ...fuelled, temperature: 700, fuel: 1, own: 100, direction: [0, k.speed(0.4), 0] },
      ...{ breakUp: 100, breakSize: k.m(0.15), breakRate: k.rate(4) },
    }),
    parts: (k) => ({
      motion: [
        newAct('rise'),
        eddies(k, 13, 0.32),
        newAct('curl', { strength: 0.5 }),
        newAct('fade', { density: k.s(3), heat: k.s(0.9), radiation: k.rate(500) }),
      ],
      burning: [newAct('burn', { ignition: 200, rate: k.rate(2.6), heat: 1500, swells: 1.2, soot: 0.4, life: k.s(0.07) })],
      look: [smoke(k, 9, { colour: [0.42, 0.4, 0.38] }), newAct('glow', { coldest: 950, hottest: 2100, strength: k.perMetre(7) })],
    }),
  },
  {
    name: 'Candle',
    help: 'One smooth tongue',
    synonyms: ['flame', 'torch', 'lamp', 'lighter'],
    ...{ called: 'Candle flame', voxels: 40, bed: [0.14, 0.1, 0.14] },
    room: { size: [1.2, 2.4, 1.2], at: [0, 1.1] },
    feed: (k) => ({ ...fuelled, temperature: 900, fuel: 1, direction: [0, k.speed(0.5), 0] }),
    parts: (k) => ({
      motion: [
        newAct('rise', { heat: 0.8 }),
        eddies(k, 0.6, 0.8),
        newAct('fade', { density: k.s(0.5), heat: k.s(0.5), radiation: k.rate(300) }),
      ],
      burning: [newAct('burn', { ignition: 200, rate: k.rate(2.4), heat: 1300, swells: 0.2, soot: 0, life: k.s(0.08) })],
      look: [newAct('glow', { coldest: 1100, hottest: 2100, strength: k.perMetre(9) })],
    }),
  },
  {
    name: 'Chimney smoke',
    help: 'Pale billows that the wind takes along',
    synonyms: ['smoke', 'steam', 'stack', 'plume', 'exhaust'],
    ...{ called: 'Chimney smoke', voxels: 20, bed: [0.5, 0.2, 0.5] },
    room: { size: [8, 6, 4], at: [2.5, 2.6] },
    feed: (k) => ({
      ...{ reach: k.m(0.06), densityHow: 'set', density: 1, temperatureHow: 'set', temperature: 60, direction: [0, k.speed(1.8), 0] },
      ...{ breakUp: 55, breakSize: k.m(0.4), breakRate: k.rate(2) },
    }),
    parts: (k) => ({
      motion: [
        newAct('rise'),
        wind(k, 1.2, 2, 1.6),
        eddies(k, 2.2, 1, 'density'),
        newAct('curl', { strength: 0.35 }),
        newAct('fade', { density: k.s(7), heat: k.s(5) }),
      ],
      look: [smoke(k, 6, { colour: [0.86, 0.85, 0.84], again: 75 })],
    }),
  },
  {
    name: 'Blast',
    help: 'Fireballs that burst, roll and turn to dark smoke',
    synonyms: ['explosion', 'fireball', 'bomb', 'detonation'],
    ...{ called: 'Fireball', voxels: 26, bed: [0.4, 0.3, 0.4] },
    room: { size: [6, 6, 6], at: [0, 2.4] },
    // Powder that is flung about carries the fire: its grains make the lobes of the fireball.
    powder: (k, source) => ({
      life: { value: k.s(0.16), vary: k.s(0.06) },
      birth: [0.25, 0.42, 0.6].map((at, i) =>
        newAct('burst', {
          ...{ source, from: 'inside', count: [34, 20, 16][i], at, along: 'direction', direction: [0, 1, 0], spread: 75, inherit: 0 },
          speed: { value: k.speed(7), vary: k.speed(4) },
        }),
      ),
      movement: [newAct('drag', { halving: k.s(0.065) })],
      look: [
        newAct('overLife', { look: null, size: k.m(0.004), brightness: 0 }),
        newAct('dot'),
        newAct('blend', { inside: 'add', onto: 'add' }),
      ],
    }),
    feed: (k) => ({
      ...{ radius: k.m(0.125), densityHow: 'add', density: 2, temperatureHow: 'most', temperature: 1500, fuelHow: 'add', fuel: 9 },
      ...{ own: 70, lead: 0.06 },
    }),
    parts: (k) => ({
      motion: [
        newAct('rise', { heat: 2.2, weight: 0.008 }),
        eddies(k, 40, 0.5, 'density'),
        newAct('curl', { strength: 0.55 }),
        newAct('fade', { density: k.s(3.7), heat: k.s(0.9), radiation: k.rate(1800) }),
      ],
      burning: [newAct('burn', { ignition: 250, rate: k.rate(4.2), heat: 1300, swells: 3.5, soot: 2, life: k.s(0.12) })],
      look: [
        smoke(k, 10, { colour: [0.3, 0.27, 0.25], even: 45, again: 55 }),
        newAct('glow', { coldest: 850, hottest: 2250, strength: k.perMetre(27), lights: 150 }),
      ],
    }),
  },
  {
    name: 'Ground mist',
    help: 'A thin layer that creeps over the ground',
    synonyms: ['fog', 'haze', 'dry ice', 'low cloud'],
    ...{ called: 'Ground mist', voxels: 16, bed: [2.6, 0.12, 2.6] },
    room: { size: [6, 1.4, 6], at: [0, 0.55] },
    feed: (k) => ({
      ...{ reach: k.m(0.05), densityHow: 'most', density: 0.8, lead: null },
      ...{ breakUp: 100, breakSize: k.m(0.7), breakRate: k.rate(0.5) },
    }),
    parts: (k) => ({
      openBelow: false,
      motion: [
        newAct('rise', { heat: 0, weight: 0.12 }),
        wind(k, 0.25, 1.2, 1.5),
        eddies(k, 1.6, 0.7, 'density'),
        newAct('fade', { density: k.s(6), heat: null }),
      ],
      look: [smoke(k, 0.75, { colour: [0.92, 0.94, 0.97], again: 80, forward: 0.55 })],
    }),
  },
  {
    name: 'Smoke ring',
    help: 'A puff through a round mouth that rolls up and travels',
    synonyms: ['vortex ring', 'puff', 'toroid'],
    ...{ called: 'Smoke ring', voxels: 40, bed: [0.3, 0.1, 0.3] },
    feed: (k) => ({ start: 0.1, end: 0.28, densityHow: 'set', density: 1.5, direction: [0, k.speed(3.2), 0], lead: 0.03 }),
    parts: (k) => ({
      motion: [newAct('curl', { strength: 0.1 }), newAct('fade', { density: k.s(8), heat: null })],
      look: [smoke(k, 14, { colour: [0.85, 0.85, 0.87], again: 70 })],
    }),
  },
]
export const GAS_RECIPES: readonly Recipe[] = ALL.map((r) => ({
  ...{ name: r.name, help: r.help, synonyms: r.synonyms },
  make: (shot, source, size) => make(r, shot, source, size),
}))
