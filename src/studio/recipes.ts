// Systems to start from: sensible values at the scale of what is selected, each a system or two.
import type { ActDoc, GasDoc, LookDoc, ObjectDoc, Shot, SystemDoc } from '../shot'
import { newAct, newLook, newObject, newSystem, newTrailLook } from './create'

export interface Recipe {
  name: string
  help: string
  synonyms: readonly string[]
  /** It is for an object: nothing comes of it without one. */
  onObject?: boolean
  /** `source`: an object that it starts from. `size`: metres that its picture is about; all lengths and speeds follow. */
  make(shot: Shot, source: string | null, size: number): Made
}
export interface Made {
  /** Objects that come with it: what it starts from where nothing is selected. */
  objects?: ObjectDoc[]
  systems: SystemDoc[]
  looks: LookDoc[]
  gases?: GasDoc[]
  /** What grows on the object that it starts from. */
  offspring?: ActDoc[]
}
/** Where its small picture is, among what the application serves: scripts/recipe-pictures.mjs draws it. */
export const pictureOf = (r: Pick<Recipe, 'name'>): string => `/recipes/${r.name.toLowerCase().replaceAll(' ', '-')}.jpg`
/** Lengths grow with the size, and speeds so that everything falls as it should at that size. */
const speed = (v: number, size: number): number => rounded(v * Math.sqrt(size))
const rounded = (v: number): number => Number(v.toPrecision(2))
const length = (v: number, size: number): number => rounded(v * size)

export type Parts = Partial<Pick<SystemDoc, 'life' | 'birth'>> & {
  movement: ActDoc[]
  contact?: ActDoc[]
  offspring?: ActDoc[]
  look: ActDoc[]
}
/** A system with these acts alone. */
export function systemOf(shot: Shot, name: string, o: Parts): SystemDoc {
  const { system: s } = newSystem(shot, null)
  const { movement, contact = [], offspring = [], look } = o
  const taken = new Set(shot.systems.map((x) => x.name))
  let free = name
  for (let n = 2; taken.has(free); n++) free = `${name} ${n}`
  return { ...s, name: free, life: o.life ?? 1, birth: o.birth ?? [], whole: { movement, contact, offspring, look } }
}
const coloured = (name: string, stops: readonly [number, [number, number, number]][]): LookDoc => ({
  ...newLook(name),
  colour: { stops: stops.map(([at, colour]) => ({ at, colour })) },
})
const tail = (name: string, stops: readonly [number, [number, number, number]][]): LookDoc => ({
  ...newTrailLook(name),
  colour: coloured(name, stops).colour,
})
const adds = () => newAct('blend', { inside: 'add', onto: 'add' })
const EMBER: [number, [number, number, number]][] = [
  [0, [1, 0.86, 0.58]],
  [0.4, [1, 0.42, 0.1]],
  [1, [0.5, 0.07, 0.01]],
]
const GOLD: [number, [number, number, number]][] = [
  [0, [1, 0.9, 0.7]],
  [0.3, [1, 0.62, 0.2]],
  [1, [0.6, 0.14, 0.03]],
]
const BLUE: [number, [number, number, number]][] = [
  [0, [0.85, 0.95, 1]],
  [0.25, [0.25, 0.6, 1]],
  [1, [0.03, 0.08, 0.5]],
]

export const RECIPES: readonly Recipe[] = [
  {
    name: 'Sparks',
    help: 'Bright dashes that bounce and cool',
    synonyms: ['weld', 'grinder', 'metal', 'hit'],
    make(shot, source, size) {
      const look = coloured('Sparks', EMBER)
      const sparks = systemOf(shot, 'Sparks', {
        life: { value: 0.9, vary: 0.4 },
        birth: [newAct('steady', { source, end: null, rate: 600, spread: 60, speed: { value: speed(4, size), vary: speed(2.5, size) } })],
        movement: [newAct('gravity'), newAct('drag', { halving: 0.7 })],
        contact: [newAct('bounce', { restitution: { value: 40, vary: 20 } })],
        look: [
          newAct('overLife', { look: look.id, size: { value: length(0.005, size), vary: length(0.003, size) }, brightness: 5 }),
          newAct('dash', { length: 0.02, taper: 80 }),
          adds(),
        ],
      })
      return { systems: [sparks], looks: [look] }
    },
  },
  {
    name: 'Rocket and burst',
    help: 'A rocket that rises, and the stars that it bursts into',
    synonyms: ['fireworks', 'firework', 'explosion', 'stars'],
    make(shot, source, size) {
      const [rise, stars] = [tail('Rising', EMBER), coloured('Stars', GOLD)]
      const behind = tail('Behind stars', GOLD)
      const burst = systemOf(shot, 'Stars', {
        life: { value: 2, vary: 0.3 },
        movement: [newAct('gravity', { strength: 5 }), newAct('drag', { halving: 0.45 })],
        offspring: [
          newAct('trail', {
            seconds: { value: 0.9, vary: 0.2 },
            ...{ width: length(0.02, size), detail: length(0.003, size), look: behind.id, brightness: 3 },
          }),
        ],
        look: [
          newAct('overLife', { look: stars.id, size: { value: length(0.03, size), vary: length(0.006, size) }, brightness: 6 }),
          newAct('dot'),
          adds(),
        ],
      })
      const rocket = systemOf(shot, 'Rocket', {
        life: { value: 1.2, vary: 0.05 },
        birth: [
          newAct('burst', {
            ...{ source, from: 'point', along: 'direction', direction: [0, 1, 0], spread: 4 },
            ...{ count: 1, at: 0.25, every: 2, times: 3, speed: { value: speed(9, size), vary: speed(0.5, size) } },
          }),
        ],
        movement: [newAct('gravity'), newAct('drag', { halving: 3 })],
        offspring: [
          newAct('trail', {
            seconds: 0.5,
            ...{ width: length(0.03, size), detail: length(0.003, size), look: rise.id, brightness: 5, own: 'none' },
            ...{ head: 'glow', headSize: length(0.25, size), headBright: 0.6 },
          }),
          newAct('shed', { to: burst.id, each: 'end', count: 140, speed: { value: speed(7, size), vary: speed(0.4, size) }, inherit: 20 }),
        ],
        look: [newAct('overLife', { look: null, size: length(0.04, size), brightness: 8 }), newAct('dot'), adds()],
      })
      return { systems: [rocket, burst], looks: [rise, stars, behind] }
    },
  },
  {
    name: 'Streaks',
    help: 'Long glowing lines that wind about',
    synonyms: ['energy', 'light trail', 'magic', 'ribbon', 'comet'],
    make(shot, source, size) {
      const look = tail('Streak', BLUE)
      const streaks = systemOf(shot, 'Streaks', {
        life: { value: 5, vary: 0.5 },
        birth: [newAct('burst', { source, from: 'point', count: 6, at: 0, every: 4, times: 1, spread: 180, speed: speed(2.5, size) })],
        movement: [
          newAct('orbit', {
            ...{ object: source, radius: length(0.75, size), around: speed(2.6, size), reach: length(4, size) },
            response: rounded(0.4 * Math.sqrt(size)),
          }),
          newAct('turbulence', { strength: rounded(11), eddy: length(0.8, size), octaves: 2, renewal: 0.6 }),
        ],
        offspring: [
          newAct('trail', {
            seconds: 1.2,
            ...{ width: length(0.05, size), detail: length(0.002, size), look: look.id, brightness: 4, own: 'none' },
            ...{ head: 'rays', headSize: length(0.4, size), headBright: 0.8 },
          }),
        ],
        look: [newAct('overLife', { look: null, size: 0, brightness: 1 }), newAct('dot'), adds()],
      })
      return { systems: [streaks], looks: [look] }
    },
  },
  {
    name: 'Rain with splashes',
    help: 'Drops that fall from above, and what they throw up where they land',
    synonyms: ['water', 'drops', 'weather', 'splash'],
    make(shot, source, size) {
      const cloud: ObjectDoc = {
        ...newObject(shot, 'Cloud', { kind: 'box', width: length(4, size), height: length(0.4, size), depth: length(4, size) }),
        ...{ place: [0, length(4, size), 0], seen: false, shadow: false, roles: { source: true, collider: false } },
      }
      const look = coloured('Water', [
        [0, [0.6, 0.72, 0.85]],
        [1, [0.5, 0.62, 0.8]],
      ])
      const drawn = (m: number, dash: number) => [
        newAct('overLife', { look: look.id, size: { value: length(m, size), vary: length(m * 0.4, size) }, brightness: 1.3, opacity: 70 }),
        newAct('dash', { length: dash, taper: 30 }),
        adds(),
      ]
      const splash = systemOf(shot, 'Splashes', {
        life: { value: 0.28, vary: 0.1 },
        movement: [newAct('gravity')],
        contact: [newAct('die')],
        look: drawn(0.004, 0.012),
      })
      const rain = systemOf(shot, 'Rain', {
        life: 4,
        birth: [
          newAct('steady', {
            ...{
              source: source ?? cloud.id,
              end: null,
              rate: 900,
              along: 'direction',
              direction: [0.08, -1, 0],
              spread: 2,
              speed: { value: speed(6, size), vary: 0.5 },
            },
          }),
        ],
        movement: [newAct('gravity')],
        contact: [newAct('die')],
        offspring: [
          newAct('shed', {
            ...{ to: splash.id, each: 'contact', count: { value: 4, vary: 2 }, along: 'normal', spread: 70, hollow: 20, inherit: 0 },
            speed: { value: speed(1.1, size), vary: speed(0.5, size) },
          }),
        ],
        look: drawn(0.005, 0.02),
      })
      return { objects: source ? [] : [cloud], systems: [rain, splash], looks: [look] }
    },
  },
  {
    name: 'Frost',
    help: 'Crystals that creep over the selected object',
    synonyms: ['ice', 'growth', 'crystals', 'ivy', 'freeze'],
    onObject: true,
    make(_shot, _source, size) {
      const look: LookDoc = {
        ...newLook('Frost'),
        colour: {
          stops: [
            { at: 0, colour: [0.95, 0.98, 1] },
            { at: 1, colour: [0.55, 0.72, 0.9] },
          ],
        },
        size: {
          points: [
            { at: 0, v: 0.1 },
            { at: 1, v: 1 },
          ],
        },
        opacity: { points: [{ at: 0, v: 1 }] },
      }
      const frost = newAct('growth', {
        ...{
          lines: 14,
          reach: { value: length(0.35, size), vary: length(0.12, size) },
          speed: length(0.25, size),
          wander: 25 / size,
          generations: 3,
        },
        ...{
          spacing: length(0.018, size),
          uneven: 25,
          angle: { value: 55, vary: 6 },
          child: 40,
          detail: length(0.005, size),
          lift: length(0.001, size),
        },
        ...{ width: length(0.006, size), thinner: 35, fainter: 10, look: look.id, brightness: 1.2 },
      })
      return { systems: [], looks: [look], offspring: [frost] }
    },
  },
  {
    name: 'Links',
    help: 'Drifting points, and lines between those that are near each other',
    synonyms: ['net', 'network', 'plexus', 'web', 'constellation', 'lines'],
    make(shot, source, size) {
      const look = coloured('Points', BLUE)
      const line: LookDoc = {
        ...newLook('Links'),
        colour: {
          stops: [
            { at: 0, colour: [0.55, 0.85, 1] },
            { at: 1, colour: [0.05, 0.2, 0.6] },
          ],
        },
        size: { points: [{ at: 0, v: 1 }] },
        opacity: {
          points: [
            { at: 0, v: 1 },
            { at: 1, v: 0 },
          ],
        },
      }
      const points = systemOf(shot, 'Points', {
        life: { value: 6, vary: 2 },
        birth: [newAct('steady', { source, end: null, rate: 45, spread: 180, speed: { value: speed(0.6, size), vary: speed(0.5, size) } })],
        movement: [
          newAct('turbulence', { strength: rounded(0.7), eddy: length(0.7, size), octaves: 2, renewal: 0.4 }),
          newAct('drag', { halving: rounded(1.1 * Math.sqrt(size)) }),
        ],
        offspring: [newAct('links', { distance: length(0.3, size), most: 5, width: length(0.006, size), look: line.id, brightness: 2.5 })],
        look: [
          newAct('overLife', { look: look.id, size: { value: length(0.025, size), vary: length(0.01, size) }, brightness: 5 }),
          newAct('dot', { softness: 60 }),
          adds(),
        ],
      })
      return { systems: [points], looks: [look, line] }
    },
  },
  {
    name: 'Swarm',
    help: 'Fireflies that stay together, with short tails',
    synonyms: ['fireflies', 'insects', 'boids', 'flock', 'birds'],
    make(shot, source, size) {
      const look = coloured('Fireflies', [
        [0, [0.75, 1, 0.35]],
        [1, [0.5, 0.9, 0.15]],
      ])
      const swarm = systemOf(shot, 'Swarm', {
        life: { value: 8, vary: 2 },
        birth: [
          newAct('burst', { source, count: 160, at: 0, every: 4, times: 1, spread: 180, speed: { value: speed(0.5, size), vary: 0.2 } }),
        ],
        movement: [
          newAct('flock', { radius: length(0.45, size), room: length(0.2, size), slowest: speed(0.4, size), fastest: speed(1.6, size) }),
          newAct('turbulence', { strength: rounded(4), eddy: length(0.7, size) }),
          newAct('attract', { object: source, strength: rounded(2.2), reach: length(2.4, size), falloff: 'even' }),
        ],
        offspring: [newAct('trail', { seconds: 0.3, width: length(0.012, size), detail: length(0.002, size), brightness: 1.5 })],
        look: [
          newAct('overLife', { look: look.id, size: { value: length(0.02, size), vary: length(0.008, size) }, brightness: 4 }),
          newAct('dot', { softness: 80 }),
          adds(),
        ],
      })
      return { systems: [swarm], looks: [look] }
    },
  },
]
