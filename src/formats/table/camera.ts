import { grouped } from '../../shot'
import { bad, type Read } from '../result'

type Three = [number, number, number]
/** A table of numbers as it stands in a file: columns by their number. */
export interface NumberTable {
  separator: ',' | ';' | '\t' | ' '
  header: string[] | null
  rows: number[][]
  /** What stood before the numbers of each row, where every row begins with a word. */
  names?: string[]
}
/** What the columns of a camera's table hold, by their number. */
export interface CameraColumns {
  /** Frames, or seconds; without: a row is a frame. */
  time: { column: number; in: 'frames' | 's' } | null
  /** Where it stands; of a matrix the fourth column. */
  place: Three | null
  rotation:
    | { kind: 'angles'; columns: Three }
    /** x, y, z, w */
    | { kind: 'quaternion'; columns: [number, number, number, number] }
    /** Sixteen from this one on, or twelve without the last row; `by`: vectors stand in columns, or in rows. */
    | { kind: 'matrix'; first: number; count: 12 | 16; by: 'columns' | 'rows' }
    | null
  lens: { column: number; in: 'mm' | 'vertical' | 'horizontal' } | null
}
/** What no table says of itself. */
export interface CameraTaking {
  columns: CameraColumns
  /** Metres in one of its units. */
  unit: number
  up: 'y' | 'z'
  /** About which axis it is rotated first, then, last; angles in degrees. */
  order: 'xyz' | 'xzy' | 'yxz' | 'yzx' | 'zxy' | 'zyx'
}
/** A camera at a moment of the table: axes in the shot, unit. */
export interface CameraAt {
  frame: number
  place: Three
  forward: Three
  up: Three
  /** mm on a sensor 36 mm wide; null: the table does not say. */
  lens: number | null
}
const MOST_ROWS = 100_000
const MOST_COLUMNS = 64

/** Reads numbers in rows: comma, semicolon, tab or spaces between them, decimal commas where no comma parts them, with names above or without. */
export function readNumbers(text: string): Read<NumberTable> {
  const lines = text
    .replace(/^\uFEFF/, '')
    .split(/\r\n|\n|\r/)
    .map((line, i) => ({ line: line.trim(), n: i + 1 }))
    .filter((l) => l.line && !/^(#|\/\/)/.test(l.line))
  if (!lines.length) return bad('a table without a row')
  const probe = lines[Math.min(1, lines.length - 1)].line
  const separator = probe.includes(';') ? ';' : probe.includes('\t') ? '\t' : probe.includes(',') ? ',' : ' '
  const cells = (line: string) =>
    (separator === ' ' ? line.split(/\s+/) : line.split(separator)).map((c) => c.trim().replace(/^"(.*)"$/, '$1'))
  const valueOf = (c: string) => (c === '' ? Number.NaN : Number(separator === ',' ? c : c.replace(',', '.')))
  const isWord = (c: string) => c !== '' && Number.isNaN(valueOf(c))
  // Rows that begin with a word name what they are of; words further on in the first row are a header.
  const named = lines.every((l) => isWord(cells(l.line)[0])) && cells(probe).length > 1 && !isWord(cells(probe)[1])
  const head = cells(lines[0].line).slice(named ? 1 : 0)
  const header = head.some(isWord) ? head : null
  const body = header ? lines.slice(1) : lines
  if (!body.length) return bad('a table with names and no row of numbers', { line: lines[0].n })
  if (body.length > MOST_ROWS) return bad(`a table of more than ${grouped(MOST_ROWS)} rows`, { line: body[MOST_ROWS].n })
  const width = cells(body[0].line).length - (named ? 1 : 0)
  if (width > MOST_COLUMNS) return bad(`a table of ${width} columns; at most ${MOST_COLUMNS} are read`, { line: body[0].n })
  const rows: number[][] = []
  for (const { line, n } of body) {
    const row = cells(line)
      .slice(named ? 1 : 0)
      .map(valueOf)
    if (row.length !== width) return bad(`${row.length} values where the rows before have ${width}`, { line: n })
    const wrong = row.findIndex((v) => !Number.isFinite(v))
    if (wrong >= 0)
      return bad(`“${cells(line)[wrong + (named ? 1 : 0)].slice(0, 30)}” is no number, in column ${wrong + (named ? 2 : 1)}`, { line: n })
    rows.push(row)
  }
  const names = named ? { names: body.map((l) => cells(l.line)[0].slice(0, 80)) } : {}
  return { ok: true, value: { separator, header, rows, ...names }, notes: [] }
}
const plain = (s: string) => s.toLowerCase().replace(/[^a-z0-9]/g, '')
/** What the columns probably are: by their names, or by how many there are. To be shown and changed. */
export function guessColumns({ header, rows }: NumberTable): CameraColumns {
  const names = header?.map(plain) ?? []
  const find = (...tries: RegExp[]) => {
    for (const t of tries) {
      const at = names.findIndex((n) => t.test(n))
      if (at >= 0) return at
    }
    return -1
  }
  const three = (of: (axis: string) => RegExp[]): Three | null => {
    const at = ['x', 'y', 'z'].map((a) => find(...of(a))) as Three
    return at.every((c) => c >= 0) ? at : null
  }
  const width = rows[0].length
  const none: CameraColumns = { time: null, place: null, rotation: null, lens: null }
  if (!header) {
    // Sixteen numbers, or twelve: a matrix, with a number of the frame before it or a lens behind.
    for (const count of [16, 12] as const)
      if (width >= count && width <= count + 2) {
        const first = width > count && isRising(rows.map((r) => r[0])) ? 1 : 0
        const time = first ? { column: 0, in: 'frames' as const } : null
        const lens = width > first + count ? { column: first + count, in: 'mm' as const } : null
        return { ...none, time, rotation: { kind: 'matrix', first, count, by: matrixBy(rows[0], first, count) }, lens }
      }
    const isUnit = (from: number) => width >= from + 4 && rows.every((r) => Math.abs(Math.hypot(...r.slice(from, from + 4)) - 1) < 1e-3)
    const first = width > 6 && !(width === 7 && isUnit(3)) && isRising(rows.map((r) => r[0])) ? 1 : 0
    const place: Three = [first, first + 1, first + 2]
    if (width < first + 6)
      return { ...none, ...(first ? { time: { column: 0, in: 'frames' } } : {}), place: width >= first + 3 ? place : null }
    const four = isUnit(first + 3)
    return {
      time: first ? { column: 0, in: 'frames' } : null,
      place,
      rotation: four
        ? { kind: 'quaternion', columns: [first + 3, first + 4, first + 5, first + 6] }
        : { kind: 'angles', columns: [first + 3, first + 4, first + 5] },
      lens: width > first + (four ? 7 : 6) ? { column: first + (four ? 7 : 6), in: 'mm' } : null,
    }
  }
  const frame = find(/^(frame|f|fr|framenumber|frameno)$/, /^frame/)
  const time = find(/^(time|t|seconds|sec|s|times)$/)
  const w = find(/^(qw|quatw|rw|rotw|rotationw|orientationw)$/)
  const q = three((a) => [new RegExp(`^(q|quat|orientation)${a}$`), ...(w >= 0 ? [new RegExp(`^r(ot(ation)?)?${a}$`)] : [])])
  const angles = three((a) => [new RegExp(`^r(ot|otate|otation)?${a}(deg)?$`), new RegExp(`^(angle|euler)${a}$`)])
  const first = find(/^(m00|m0|m11)$/)
  const mm = find(/^(focal|focallength|lens)(mm)?$/, /^focal/)
  const vertical = find(/^(fovv|vfov|fovy|yfov|fov)(deg)?$/)
  const horizontal = find(/^(fovh|hfov|fovx|xfov)(deg)?$/)
  return {
    time: frame >= 0 ? { column: frame, in: 'frames' } : time >= 0 ? { column: time, in: 's' } : null,
    place: three((a) => [new RegExp(`^(t|p|pos|position|loc|location|translate|trans|translation|cam|camera)${a}$`), new RegExp(`^${a}$`)]),
    rotation:
      q && w >= 0
        ? { kind: 'quaternion', columns: [...q, w] }
        : angles
          ? { kind: 'angles', columns: angles }
          : first >= 0 && width >= first + 12
            ? { kind: 'matrix', first, count: width >= first + 16 ? 16 : 12, by: matrixBy(rows[0], first, width >= first + 16 ? 16 : 12) }
            : null,
    lens:
      mm >= 0
        ? { column: mm, in: 'mm' }
        : vertical >= 0
          ? { column: vertical, in: 'vertical' }
          : horizontal >= 0
            ? { column: horizontal, in: 'horizontal' }
            : null,
  }
}
const isRising = (v: number[]) => v.every((x, i) => Number.isInteger(x) && (i === 0 || x > v[i - 1])) && v.length > 1
/** Vectors in columns have 0, 0, 0, 1 as their last row; in rows as their last column. */
function matrixBy(row: number[], first: number, count: number): 'columns' | 'rows' {
  const at = (k: number) => row[first + k]
  return count === 16 && at(3) === 0 && at(7) === 0 && at(11) === 0 && at(15) === 1 && (at(12) || at(13) || at(14)) ? 'rows' : 'columns'
}
/** What is missing or impossible in a choice of columns, in words; null: nothing. */
export function columnsProblem(c: CameraColumns): string | null {
  if (c.rotation?.kind !== 'matrix' && !c.place) return 'Say which columns hold the place: X, Y and Z.'
  if (!c.rotation) return 'Say which columns hold the rotation: three angles, a quaternion, or a matrix.'
  return null
}
/**
 * The cameras of a table, a row each. A camera of rotation 0 looks along −Z with Y upwards, as those of open formats do. `aspect`: width over
 * height of the picture, for lenses given as vertical angles; `rate`: frames a second, for seconds. Throws where columnsProblem has words.
 */
export function cameraPath(table: NumberTable, taking: CameraTaking, o: { aspect: number; rate: number }): CameraAt[] {
  const { columns, unit, up, order } = taking
  const problem = columnsProblem(columns)
  if (problem) throw new Error(problem)
  const turned = (v: Three) => uprightOf(v, up)
  return table.rows.map((row, i) => {
    const m = rotationOf(row, columns, order)
    const axis = (k: number) => unitOf(turned([m[k], m[3 + k], m[6 + k]]))
    const at: Three =
      columns.rotation?.kind === 'matrix' && !columns.place
        ? placeIn(row, columns.rotation)
        : ((columns.place ?? []).map((c) => row[c]) as Three)
    const [, y, z] = [0, 1, 2].map(axis)
    const { time, lens } = columns
    return {
      frame: time ? (time.in === 's' ? row[time.column] * o.rate : row[time.column]) : i,
      place: turned(at.map((v) => v * unit) as Three),
      forward: z.map((v) => -v || 0) as Three,
      up: y,
      lens: lens ? lensOf(row[lens.column], lens.in, o.aspect) : null,
    }
  })
}
/** A direction or place of a table that has Z or Y upwards, with Y upwards. */
const uprightOf = (v: Three, up: 'y' | 'z'): Three => (up === 'z' ? [v[0], v[2], -v[1] || 0] : v)
/** Points of a table, a row each, m: those that were tracked with the camera, taken as it was. */
export const tablePoints = (table: NumberTable, place: Three, { unit, up }: Pick<CameraTaking, 'unit' | 'up'>): Three[] =>
  table.rows.map((row) => uprightOf(place.map((c) => row[c] * unit) as Three, up))
function lensOf(v: number, kind: 'mm' | 'vertical' | 'horizontal', aspect: number): number {
  if (kind === 'mm') return v
  const half = (36 / 2) * (kind === 'vertical' ? 1 / aspect : 1)
  return half / Math.tan((v * Math.PI) / 360)
}
const unitOf = (v: Three): Three => {
  const l = Math.hypot(...v) || 1
  return v.map((x) => x / l) as Three
}
const placeIn = (row: number[], r: { first: number; by: 'columns' | 'rows' }): Three =>
  (r.by === 'columns' ? [3, 7, 11] : [12, 13, 14]).map((k) => row[r.first + k]) as Three
/** Three rows of three: vectors in columns. */
function rotationOf(row: number[], { rotation }: CameraColumns, order: string): number[] {
  if (!rotation) throw new Error('no rotation')
  if (rotation.kind === 'matrix') {
    const at = (r: number, c: number) => row[rotation.first + (rotation.by === 'columns' ? r * 4 + c : c * 4 + r)]
    return [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => at(r, c)))
  }
  if (rotation.kind === 'quaternion') {
    const q = rotation.columns.map((c) => row[c])
    const l = Math.hypot(...q) || 1
    const [x, y, z, w] = q.map((v) => v / l)
    return [
      ...[1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)],
      ...[2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)],
      ...[2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)],
    ]
  }
  const angle: Record<string, number> = { x: row[rotation.columns[0]], y: row[rotation.columns[1]], z: row[rotation.columns[2]] }
  // The first of the order is nearest to the vector.
  return [...order].map((axis) => about(axis, (angle[axis] * Math.PI) / 180)).reduce((m, r) => times(r, m))
}
function about(axis: string, a: number): number[] {
  const [c, s] = [Math.cos(a), Math.sin(a)]
  if (axis === 'x') return [1, 0, 0, 0, c, -s, 0, s, c]
  if (axis === 'y') return [c, 0, s, 0, 1, 0, -s, 0, c]
  return [c, -s, 0, s, c, 0, 0, 0, 1]
}
const times = (a: number[], b: number[]): number[] =>
  [0, 1, 2].flatMap((r) => [0, 1, 2].map((c) => a[r * 3] * b[c] + a[r * 3 + 1] * b[3 + c] + a[r * 3 + 2] * b[6 + c]))
