import { alongPath, box, cone, disc, evenSphere, line, lineThrough, type Mesh, type Point, planeMesh, sphere, torus, tube } from '../engine'
import { changes, choice, number, type Params, type Shape } from '../shot'
import type { Base } from './meshFiles'
import { readerOf } from './reader'
import { fixedLength as fixed } from './shapeParams'

/** What a shape is made from besides its numbers. */
interface Numbers {
  build?: string
  mode?: string
  ends?: string
  points?: readonly Point[]
}
/** What a shape is made of: its numbers at a time, and what is chosen. */
type Made = Record<string, number> & Pick<Numbers, 'build' | 'mode' | 'ends' | 'points'>
interface Primitive {
  kind: string
  title: string
  /** Other words that it is looked for by. */
  synonyms?: readonly string[]
  help: string
  params: Params
  /** From its checked numbers. */
  make(s: Made): Mesh
}
/** A length of a shape from numbers: it may move, and the shape with it. */
const length = (label: string, d: number, help: string, min = 0.0001) => ({ ...fixed(label, d, help, min), animated: true })
const segments = number({
  label: 'Segments',
  unit: '',
  default: 48,
  min: 3,
  max: 512,
  soft: [6, 96],
  integer: true,
  changes: 'simulation',
  help: 'Straight pieces around.',
})
/** Every shape that is made from numbers. */
export const PRIMITIVES: readonly Primitive[] = [
  {
    kind: 'box',
    title: 'Box',
    synonyms: ['cube', 'block'],
    help: 'Six sides, each a part of its own.',
    params: { width: length('Width', 1, 'Along X.'), height: length('Height', 1, 'Along Y.'), depth: length('Depth', 1, 'Along Z.') },
    make: (s) => box(s.width, s.height, s.depth),
  },
  {
    kind: 'sphere',
    title: 'Sphere',
    synonyms: ['ball', 'globe', 'orb'],
    help: 'By rings from pole to pole, or by even triangles.',
    params: {
      radius: length('Radius', 0.5, 'From the middle to the surface.'),
      detail: number({
        label: 'Detail',
        unit: '',
        default: 24,
        min: 2,
        max: 128,
        soft: [4, 48],
        integer: true,
        changes: 'simulation',
        help: 'Rings, or for even triangles half as many pieces an edge.',
      }),
      build: choice({
        label: 'Built',
        default: 'rings',
        changes: 'simulation',
        options: [
          { value: 'rings', label: 'by rings' },
          { value: 'even', label: 'by even triangles' },
        ],
        help: 'Even triangles have no poles: better to deform and to start from their points.',
      }),
    },
    make: (s) => (s.build === 'even' ? evenSphere(s.radius, Math.max(1, Math.round(s.detail / 2))) : sphere(s.radius, s.detail)),
  },
  {
    kind: 'line',
    title: 'Line',
    help: 'Straight, along X, to start from; bend or roughen it with reshape steps. Only the View shows it.',
    params: {
      length: length('Length', 1, 'From end to end.'),
      pieces: number({
        label: 'Pieces',
        unit: '',
        default: 32,
        min: 1,
        max: 4096,
        soft: [1, 128],
        integer: true,
        changes: 'simulation',
        help: 'Straight pieces; a bent line needs some.',
      }),
    },
    make: (s) => line(s.length, s.pieces),
  },
  {
    kind: 'path',
    title: 'Path',
    synonyms: ['curve', 'spline'],
    help: 'Drawn in the View, point by point: to start from and to follow. Only the View shows it.',
    params: {
      points: {
        type: 'points',
        label: 'Points',
        default: [
          [-0.5, 0, 0],
          [0, 0.25, 0],
          [0.5, 0, 0],
        ],
        changes: 'simulation',
        help: 'What it goes through, in order.',
      },
      mode: choice({
        label: 'Goes',
        default: 'smooth',
        options: [
          { value: 'smooth', label: 'in a curve' },
          { value: 'straight', label: 'straight' },
        ],
        changes: 'simulation',
        help: 'How it gets from point to point.',
      }),
      ends: choice({
        label: 'Ends',
        default: 'open',
        options: [
          { value: 'open', label: 'open' },
          { value: 'closed', label: 'closed' },
        ],
        changes: 'simulation',
        help: 'Closed, it goes back to its first point.',
      }),
      pieces: number({
        label: 'Pieces',
        unit: '',
        default: 16,
        min: 1,
        max: 256,
        soft: [2, 48],
        integer: true,
        changes: 'simulation',
        help: 'Straight pieces of the curve from point to point.',
      }),
    },
    make: (s) => lineThrough(alongPath(s.points ?? [], s.mode === 'smooth', s.ends === 'closed', s.pieces)),
  },
  {
    kind: 'disc',
    title: 'Disc',
    synonyms: ['circle', 'plate'],
    help: 'Flat and round, its front up.',
    params: { radius: length('Radius', 0.5, 'To the rim.'), segments },
    make: (s) => disc(s.radius, 0, s.segments),
  },
  {
    kind: 'ring',
    title: 'Ring',
    help: 'A flat disc with a hole.',
    params: {
      radius: length('Radius', 0.5, 'To the outer rim.'),
      hole: length('Hole', 0.4, 'Radius of the hole; at the outer radius it is a line without area.', 0),
      segments,
    },
    make: (s) => disc(s.radius, Math.min(s.hole, s.radius * 0.9999), s.segments),
  },
  {
    kind: 'tube',
    title: 'Tube',
    synonyms: ['pipe', 'cylinder'],
    help: 'A round wall without caps, standing on its base.',
    params: { radius: length('Radius', 0.3, 'Of the wall.'), height: length('Height', 1, 'Along Y.'), segments },
    make: (s) => tube(s.radius, s.height, s.segments),
  },
  {
    kind: 'cone',
    title: 'Cone',
    synonyms: ['cylinder', 'pyramid'],
    help: 'Standing on its base, closed; with a top it is a drum. Parts Side, Base and Top.',
    params: {
      radius: length('Radius', 0.5, 'Of the base.'),
      top: length('Top', 0, 'Radius of the top; 0 is a point.', 0),
      height: length('Height', 1, 'Along Y.'),
      segments,
    },
    make: (s) => cone(s.radius, s.top, s.height, s.segments),
  },
  {
    kind: 'torus',
    title: 'Torus',
    synonyms: ['donut', 'tyre'],
    help: 'A ring with a round section, lying flat.',
    params: {
      radius: length('Radius', 0.5, 'To the middle of the section.'),
      thickness: length('Thickness', 0.12, 'Radius of the section.'),
      segments,
    },
    make: (s) => torus(s.radius, s.thickness, s.segments),
  },
]
/** A shape that is a line: births start along it, and only the View shows it. */
export const isLine = (s: Pick<Shape, 'kind'>): boolean => s.kind === 'line' || s.kind === 'path'
export const primitiveOf = (kind: string): Primitive | undefined => PRIMITIVES.find((p) => p.kind === kind)

const made = new Map<string, Mesh>()
/** The numbers of a shape at a time. */
function numbersAt(p: Primitive, shape: Shape, t: number): Made {
  const r = readerOf(shape as never)
  return Object.fromEntries(
    Object.entries(p.params).map(([k, param]) => [
      k,
      param.type === 'number' ? r.number(k, t) : param.type === 'points' ? r.raw(k) : r.choice(k, t),
    ]),
  ) as Made
}
/** Of one that moves no length is nothing at all: a cone with a point keeps the rim that it may get. */
const LEAST = 1e-7
const withRims = (numbers: Made): Made =>
  Object.fromEntries(Object.entries(numbers).map(([k, v]) => [k, typeof v === 'number' ? Math.max(LEAST, v) : v])) as Made
const moves = (p: Primitive, shape: Shape): boolean => Object.keys(p.params).some((k) => changes((shape as Record<string, unknown>)[k]))
/**
 * One mesh for the same numbers, as they are at the first frame, so that the World keeps what it built for it. Null for shapes without
 * geometry of their own. One whose numbers move has all triangles that it can ever have, also those without an area now.
 */
export function shapeMesh(shape: Shape): Mesh | null {
  const p = primitiveOf(shape.kind)
  const numbers = p ? numbersAt(p, shape, 0) : null
  const moving = !!p && moves(p, shape)
  const key = p ? `${shape.kind} ${moving} ${JSON.stringify(numbers)}` : JSON.stringify(shape)
  const known = made.get(key)
  if (known) return known
  let mesh = shape.kind === 'plane' ? planeMesh(shape.size) : p && numbers ? p.make(numbers) : null
  if (!mesh) return null
  if (p && numbers && moving) {
    mesh = p.make(withRims(numbers))
    const usual = p.make({
      ...numbers,
      ...Object.fromEntries(
        Object.entries(p.params).flatMap(([k, x]) => (x.type === 'number' && x.animated ? [[k, x.default || 0.25]] : [])),
      ),
    })
    if (usual.positions.length === mesh.positions.length) mesh = { ...usual, positions: mesh.positions, normals: mesh.normals }
  }
  if (made.size > 200) made.clear()
  made.set(key, mesh)
  return mesh
}
/** A shape from numbers with what it does while they move. */
export function shapeBase(shape: Shape): Base | null {
  const mesh = shapeMesh(shape)
  const p = primitiveOf(shape.kind)
  if (!mesh || !p || !moves(p, shape)) return mesh && { mesh, at: null }
  return {
    mesh,
    at(t) {
      const numbers = numbersAt(p, shape, t)
      return {
        key: `shape ${JSON.stringify(numbers)}`,
        places() {
          const { positions } = p.make(withRims(numbers))
          return positions.length === mesh.positions.length ? positions : mesh.positions
        },
      }
    },
  }
}
