import { hash3, type Matrix, multiply, type PlanGas, type StoredCopy, type StoredVolume, unit } from '../engine'
import type { ActDoc, GasDoc, MeshShape, ObjectDoc } from '../shot'
import type { Meshes } from './baseMesh'
import type { CompileContext } from './compileContext'
import { amongOf, copiesAt, type OtherOf, turnOf } from './copied'
import type { StoredFeed } from './define'
import { readerOf } from './reader'
import { actOfSort } from './registry'
import { flowingFeeds, storedFeeds } from './storedFeeds'

/** Names by which grids are found where none is said. */
const NAMES = { density: ['density', 'smoke', 'soot'], heat: ['temperature', 'heat'], flame: ['flame', 'flames', 'fire'] } as const
const VELOCITY = ['vel', 'velocity', 'v']
/** Channels of the hash of a copy: its shares of the dyes. */
const DYES = 51

function gridIn(volume: StoredVolume, what: keyof typeof NAMES, said: string): string | null {
  const names = volume.grids.filter((x) => x.channels === 1).map((x) => x.name)
  if (said) return names.includes(said) ? said : null
  const known = NAMES[what].find((n) => names.includes(n))
  if (known) return known
  const smoke = volume.grids.find((x) => x.kind === 'fog volume' || x.kind === 'level set')
  return what === 'density' ? (smoke?.name ?? names[0] ?? null) : null
}
const velocityIn = (volume: StoredVolume, said: string): string | null => {
  const names = volume.grids.filter((x) => x.channels === 3).map((x) => x.name)
  return said ? (names.includes(said) ? said : null) : (VELOCITY.find((n) => names.includes(n)) ?? null)
}
/** Which of its files is played at t (s), counted from 0. */
function fileAt(shape: MeshShape, f: StoredFeed, t: number): number {
  const all = shape.poses.length + 1
  const within = (n: number) => Math.min(all - 1, Math.max(0, n))
  if (f.hold !== null) return within(Math.round(f.hold) - 1)
  const from = within((f.part[0] ?? 1) - 1)
  const to = Math.max(from, within((f.part[1] ?? all) - 1))
  const gone = Math.floor(Math.max(0, (t - shape.start) * shape.speed * shape.rate) + 1e-6)
  return from + (shape.after === 'repeat' ? gone % (to - from + 1) : Math.min(gone, to - from))
}
/** From the numbers of a file to metres, Y up, as its shape says. */
function taken({ unit: k, up }: MeshShape): Matrix {
  return Float64Array.from(up === 'y' ? [k, 0, 0, 0, 0, k, 0, 0, 0, 0, k, 0] : [k, 0, 0, 0, 0, 0, k, 0, 0, -k, 0, 0])
}
interface Source {
  act: ActDoc
  object: ObjectDoc
  stored(t: number): StoredFeed
}
/** What cards say that are of files. Says what they lack. */
function sourcesOf(c: CompileContext, g: GasDoc, acts: readonly ActDoc[], meshes: Meshes): Source[] {
  return acts.flatMap((a) => {
    const act = actOfSort(a.kind, 'feed')
    const p = readerOf(a)
    const from = act.from(p)
    const object = c.shot.objects.find((o) => 'object' in from && o.id === from.object && !o.muted)
    const tell = (message: string) => void c.problems.push({ element: g.id, message: `${act.title}: ${message}` })
    if (!object) return []
    const volume = object.shape.kind === 'mesh' ? meshes.get(object.shape.asset)?.volume : undefined
    if (!volume) {
      tell(`${object.name} has no volume; choose an object that was brought in from a VDB file`)
      return []
    }
    const said = act.stored?.(p, 0).grids
    for (const what of ['density', 'heat', 'flame'] as const)
      if (said?.[what] && !gridIn(volume, what, said[what]))
        tell(
          `the file of ${object.name} has no grid of numbers named “${said[what]}”; it has ${volume.grids.map((x) => x.name).join(', ')}`,
        )
    return [{ act: a, object, stored: (t: number) => act.stored?.(p, t) as StoredFeed }]
  })
}
/** What a gas is that files say; null: it flows. */
export function storedOf(c: CompileContext, g: GasDoc, meshes: Meshes, otherOf: OtherOf): PlanGas['stored'] | null {
  const acts = storedFeeds(g)
  if (!acts.length) return null
  const sources = sourcesOf(c, g, acts, meshes)
  return (t) => {
    const copies = sources.flatMap((s) => copiesOf(c, s, t, meshes, otherOf))
    return { key: copies.map((x) => x.key).join('|'), copies }
  }
}
/** What files bring into a gas that flows. */
export function fedByFiles(c: CompileContext, g: GasDoc, meshes: Meshes, otherOf: OtherOf): NonNullable<PlanGas['fed']> {
  return sourcesOf(c, g, flowingFeeds(g), meshes).map((s) => {
    const [start, end] = actOfSort(s.act.kind, 'feed').window(readerOf(s.act))
    return {
      at: (t) => {
        const copies = copiesOf(c, s, t, meshes, otherOf)
        return { key: copies.map((x) => x.key).join('|'), copies }
      },
      active: (t0, t1) => (t1 > t0 ? Math.max(0, Math.min(end, t1) - Math.max(start, t0)) / (t1 - t0) : 0),
      mode: s.stored(0).comes ?? 'add',
      pushes: (t) => s.stored(t).pushes,
    }
  })
}
/** Every copy of an object's volume, as its files have it then. */
function copiesOf(c: CompileContext, source: Source, t: number, meshes: Meshes, otherOf: OtherOf): (StoredCopy & { key: string })[] {
  const { object } = source
  const { seed } = source.act
  const f = source.stored(t)
  const world = c.where(object, t)
  const acts = object.copies
  const others = amongOf(acts)
  return copiesAt(acts, t, () => world, otherOf).flatMap((copy, n) => {
    const other = copy.source > 0 ? otherOf(others[copy.source - 1])?.object : null
    const of = other?.shape.kind === 'mesh' ? other : object
    if (of.shape.kind !== 'mesh') return []
    const shape = of.shape
    const hash = [shape.asset, ...shape.poses][fileAt(shape, f, t - copy.lateS)]
    const volume = meshes.get(hash)?.volume
    if (!volume) return []
    const stands = other ? multiply(copy.matrix, turnOf(other)(t)) : copy.matrix
    const matrix = multiply(multiply(world, stands), taken(shape))
    const amounts = amountsOf(volume, f, n, seed)
    const velocity = velocityIn(volume, f.velocity)
    return [{ volume, matrix, amounts, ...(velocity ? { velocity } : {}), key: `${hash} ${matrix.join()} ${JSON.stringify(amounts)}` }]
  })
}
function amountsOf(volume: StoredVolume, f: StoredFeed, copy: number, seed: number): StoredCopy['amounts'] {
  const [density, heat, flame] = (['density', 'heat', 'flame'] as const).map((w) => gridIn(volume, w, f.grids[w]))
  // With a share of its own each copy has the more of one dye the less it has of the other.
  const share = f.apart ? unit(hash3(seed, copy, DYES)) : 1
  const dye = (by: number, part: number) => (density && by > 0 ? { grid: density, times: f.density * by * part } : undefined)
  const [a, b] = [dye(f.dyes.dyeA, share), dye(f.dyes.dyeB, f.apart ? 1 - share : 1)]
  return {
    ...(density ? { density: { grid: density, times: f.density } } : {}),
    ...(heat ? { temperature: { grid: heat, times: f.heat, less: f.less } } : {}),
    ...(flame ? { flame: { grid: flame, times: f.flame } } : {}),
    ...(a ? { dyeA: a } : {}),
    ...(b ? { dyeB: b } : {}),
  }
}
