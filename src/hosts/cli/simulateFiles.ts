import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { deflateSync } from 'node:zlib'
import { drawsOf, findAsked, type Meshes, stripDraw, stripOwner, systemMatrices } from '../../acts'
import { type Frame, fieldOf, Gas, hashOf, partsOf, type VolumePart, velocityOf, type World } from '../../engine'
import {
  CSV_COLUMNS,
  gasVdb,
  pointsTable,
  stripsTable,
  TABLE_COLUMNS,
  type Table,
  type TableColumn,
  tableCsv,
  tableNpz,
  VDB_GRIDS,
  type VdbPacking,
} from '../../formats'
import { framesPerSecond, type Shot, timeOf } from '../../shot'
import { UserError } from '../node/shot'

const TABLES = { csv: tableCsv, npz: (t: Table) => tableNpz(t) } as const
type TableFormat = keyof typeof TABLES
const FORMATS = [...Object.keys(TABLES), 'vdb']
const PACKINGS: readonly VdbPacking[] = ['blosc', 'zip', 'none']
/** What files frames are written as. */
export interface FileWays {
  /** Of particles and strips; null: gases alone. */
  table: TableFormat | null
  columns: readonly TableColumn[]
  contacts: boolean
  grids: readonly string[]
  half: boolean
  packing: VdbPacking
}
/** Names between commas, each one of those that there are. Throws UserError naming the option. */
function namesIn<T extends string>(option: string, text: string, known: readonly T[], what: string): T[] {
  const names = text
    .split(',')
    .map((n) => n.trim())
    .filter(Boolean)
  const wrong = names.find((n) => !known.includes(n as T))
  if (wrong !== undefined || !names.length)
    throw new UserError(`--${option}: “${wrong ?? text}” is not ${what}; there are ${known.join(', ')}`)
  return [...new Set(names)] as T[]
}
export function fileWays(o: {
  format?: string
  columns?: string
  contacts?: boolean
  grids?: string
  bits?: string
  packing?: string
}): FileWays {
  const format = o.format ?? 'csv'
  if (!FORMATS.includes(format)) throw new UserError(`--format: “${o.format}” is not known; ${FORMATS.join(', ')} are`)
  if (o.bits !== undefined && o.bits !== '16' && o.bits !== '32') throw new UserError(`--bits: “${o.bits}” is neither 16 nor 32`)
  const [packing] = namesIn('packing', o.packing ?? 'blosc', PACKINGS, 'a packing')
  return {
    table: format === 'vdb' ? null : (format as TableFormat),
    columns: o.columns === undefined ? CSV_COLUMNS : namesIn('columns', o.columns, TABLE_COLUMNS as readonly TableColumn[], 'a column'),
    contacts: !!o.contacts,
    grids: o.grids === undefined ? VDB_GRIDS : namesIn('grids', o.grids, VDB_GRIDS, 'a grid'),
    half: o.bits !== '32',
    packing,
  }
}
/** Writes frames into a folder: a table of each system and strip, or a file of sparse grids of each gas. */
export class FrameFiles {
  private readonly names: ReadonlyMap<number, string>

  constructor(
    private readonly folder: string,
    private readonly shot: Shot,
    private readonly meshes: Meshes,
    private readonly ways: FileWays,
    say: (text: string) => void,
  ) {
    mkdirSync(folder, { recursive: true })
    this.names = new Map(shot.objects.map((x) => [hashOf(x.id), x.id]))
    if (!ways.table && !shot.gases.some((g) => !g.muted)) say('--format vdb: the shot has no gas, so nothing is written')
  }
  write(world: World, frame: Frame, f: number): void {
    const number = String(f).padStart(4, '0')
    if (!this.ways.table) for (const part of partsOf(frame.parts, 'volume')) this.gas(world, part, f, number)
    else this.tables(world, frame, f, number, this.ways.table)
  }
  private gas(world: World, part: VolumePart, f: number, number: string): void {
    const { shot, ways } = this
    const gas = world.solver(part.element)
    const name = shot.gases.find((g) => g.id === part.element)?.name ?? part.element
    const bytes = gasVdb(part, {
      ...{ grids: ways.grids, half: ways.half, packing: ways.packing, frame: f, rate: framesPerSecond(shot), name },
      ...(gas instanceof Gas ? { velocity: velocityOf(fieldOf(gas)) } : {}),
      deflate: (b) => deflateSync(b, { level: 1 }),
    })
    writeFileSync(join(this.folder, `${part.element}.${number}.vdb`), bytes)
  }
  private tables(world: World, frame: Frame, f: number, number: string, format: TableFormat): void {
    const { shot, meshes, folder, ways } = this
    const encode = TABLES[format]
    const t = timeOf(shot, f)
    for (const part of partsOf(frame.parts, 'strips')) {
      const found = stripOwner(shot, part.element, t, meshes, frame.parts)
      const draw = found && stripDraw(shot, found.owner, part.act, t)
      if (!draw) continue
      const table = stripsTable(part, draw, found.looks, found.matrices)
      writeFileSync(join(folder, `${part.element}.${part.act}.${number}.${format}`), encode(table))
    }
    for (const part of partsOf(frame.parts, 'points')) {
      const system = shot.systems.find((s) => s.id === part.element)
      if (!system) continue
      const matrices = systemMatrices(shot, system, t, meshes, frame.parts)
      if (matrices[0]) findAsked(world.asker, { shot, system, part, matrix: matrices[0], meshes, t, parts: frame.parts })
      const table = pointsTable(
        part,
        drawsOf(shot, system, t, frame.parts),
        matrices,
        ways.columns,
        system.phases.map((p) => p.blend),
      )
      writeFileSync(join(folder, `${part.element}.${number}.${format}`), encode(table))
      if (ways.contacts)
        writeFileSync(
          join(folder, `${part.element}.${number}.contacts.csv`),
          contactsCsv(world, part.element, (shot.rate.den / shot.rate.num) * 1.0001, this.names),
        )
    }
  }
}
/** The contacts of the frame that a system has just gone through: particle, seconds before the end of the frame, metres, m/s, and with what. */
function contactsCsv(world: World, system: string, frameS: number, names: ReadonlyMap<number, string>): string {
  const head = 'id,ago,x,y,z,speed,with'
  const c = world.columnsOf(system)
  if (!c?.has('touched')) return `${head}\n`
  const [ids, touched] = [c.words('id'), c.words('touched')]
  const [age, at, speed, x, y, z] = (['age', 'touchedAge', 'touchSpeed', 'tx', 'ty', 'tz'] as const).map((n) => c.floats(n))
  const rows: string[] = []
  for (let i = 0; i < c.count; i++) {
    const ago = age[i] - at[i]
    if (!touched[i] || ago > frameS) continue
    rows.push([ids[i], ...[ago, x[i], y[i], z[i], speed[i]].map((v) => Number(v.toPrecision(9))), names.get(touched[i]) ?? ''].join(','))
  }
  return `${[head, ...rows].join('\n')}\n`
}
