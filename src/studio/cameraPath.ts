import type { CameraAt, CameraColumns, CameraTaking, NumberTable } from '../formats/table/camera'
import { type Animated, type AnimatedVec3, type CameraDoc, type Shot, timeOf, type Vec3 } from '../shot'
import { rollOf } from '../stage/camera'

/** What a column of a camera's table can be, as a person chooses it. */
export const ROLES = [
  ['', 'left aside'],
  ['frame', 'frame'],
  ['seconds', 'seconds'],
  ['x', 'place X'],
  ['y', 'place Y'],
  ['z', 'place Z'],
  ['rx', 'angle X'],
  ['ry', 'angle Y'],
  ['rz', 'angle Z'],
  ['qx', 'quaternion x'],
  ['qy', 'quaternion y'],
  ['qz', 'quaternion z'],
  ['qw', 'quaternion w'],
  ['columns', 'matrix from here, by columns'],
  ['rows', 'matrix from here, by rows'],
  ['mm', 'focal length, mm'],
  ['vertical', 'vertical angle of view, °'],
  ['horizontal', 'horizontal angle of view, °'],
] as const
export type Role = (typeof ROLES)[number][0]

/** A role for each column. */
export function rolesOf(c: CameraColumns, width: number): Role[] {
  const out: Role[] = Array.from({ length: width }, () => '')
  const put = (column: number | undefined, role: Role) => {
    if (column !== undefined) out[column] = role
  }
  if (c.time) put(c.time.column, c.time.in === 's' ? 'seconds' : 'frame')
  for (const [i, role] of (['x', 'y', 'z'] as const).entries()) put(c.place?.[i], role)
  if (c.rotation?.kind === 'angles') for (const [i, role] of (['rx', 'ry', 'rz'] as const).entries()) put(c.rotation.columns[i], role)
  if (c.rotation?.kind === 'quaternion')
    for (const [i, role] of (['qx', 'qy', 'qz', 'qw'] as const).entries()) put(c.rotation.columns[i], role)
  if (c.rotation?.kind === 'matrix') put(c.rotation.first, c.rotation.by)
  if (c.lens) put(c.lens.column, c.lens.in)
  return out
}
export function columnsOf(roles: readonly Role[]): CameraColumns {
  const at = (role: Role) => roles.indexOf(role)
  const all = <T extends number[]>(...of: Role[]): T | null => (of.every((r) => at(r) >= 0) ? (of.map(at) as T) : null)
  const time =
    at('frame') >= 0
      ? ({ column: at('frame'), in: 'frames' } as const)
      : at('seconds') >= 0
        ? ({ column: at('seconds'), in: 's' } as const)
        : null
  const quaternion = all<[number, number, number, number]>('qx', 'qy', 'qz', 'qw')
  const angles = all<[number, number, number]>('rx', 'ry', 'rz')
  const by = at('columns') >= 0 ? 'columns' : at('rows') >= 0 ? 'rows' : null
  const first = by ? at(by) : -1
  const count = roles.length - first >= 16 ? 16 : 12
  const lens = (['mm', 'vertical', 'horizontal'] as const).find((r) => at(r) >= 0)
  return {
    time,
    place: all<[number, number, number]>('x', 'y', 'z'),
    rotation:
      by && first + 12 <= roles.length
        ? { kind: 'matrix', first, count, by }
        : quaternion
          ? { kind: 'quaternion', columns: quaternion }
          : angles
            ? { kind: 'angles', columns: angles }
            : null,
    lens: lens ? { column: at(lens), in: lens } : null,
  }
}
/** How far before it the point lies at which a camera looks, m. */
const AIM_M = 4
/** A camera that stands at each of its moments as the table has it; the table's first frame is the `first` of the shot. */
export function cameraOf(
  path: readonly CameraAt[],
  shot: Pick<Shot, 'rate' | 'range'>,
  first: number,
): Pick<CameraDoc, 'place' | 'aim' | 'roll' | 'lens'> {
  const begin = path[0].frame
  const t = path.map((c) => timeOf(shot, first + c.frame - begin))
  const channel = (of: (c: CameraAt, i: number) => number): Animated<number> => {
    const values = path.map(of)
    return values.every((v) => v === values[0]) ? values[0] : { keys: values.map((v, i) => ({ t: t[i], v, ease: 'linear' as const })) }
  }
  const three = (of: (c: CameraAt) => Vec3): AnimatedVec3 => [0, 1, 2].map((a) => channel((c) => of(c)[a])) as AnimatedVec3
  const aim = (c: CameraAt): Vec3 => c.place.map((v, a) => v + AIM_M * c.forward[a]) as Vec3
  let last = 0
  const rolls = path.map((c) => {
    const r = rollOf({ place: c.place, aim: aim(c), lens: 35 }, c.up)
    // Never round the other way from one row to the next; what is only rounding is upright.
    last = r + 360 * Math.round((last - r) / 360)
    return Math.abs(last) < 1e-5 ? 0 : last
  })
  return { place: three((c) => c.place), aim: three(aim), roll: channel((_, i) => rolls[i]), lens: channel((c) => c.lens ?? 35) }
}
/** What should be known before it is taken: how its frames and those of the shot match. */
export function pathNotes(path: readonly CameraAt[], shot: Pick<Shot, 'rate' | 'range'>, first: number): string[] {
  const frames = Math.round((path.at(-1)?.frame ?? 0) - path[0].frame) + 1
  const { range } = shot
  const last = first + frames - 1
  const odd = path.some((c) => Math.abs(c.frame - Math.round(c.frame)) > 0.01)
  const gaps = path.some((c, i) => i > 0 && Math.abs(c.frame - path[i - 1].frame - 1) > 0.01)
  return [
    ...(last < range.last ? [`It ends at frame ${last}; up to frame ${range.last} the camera stands still.`] : []),
    ...(last > range.last ? [`It goes on to frame ${last}; the shot ends at frame ${range.last}.`] : []),
    ...(odd ? ['Its moments do not fall on frames of the shot: was it taken at another rate?'] : []),
    ...(gaps && !odd ? ['Some frames have no row; between them the camera goes straight on.'] : []),
    ...(path.every((c) => c.lens === null) ? ['It says nothing of the lens: 35 mm, unless you set another.'] : []),
  ]
}
const KEY = 'ember-camera-table'
type Remembered = Pick<CameraTaking, 'unit' | 'up' | 'order'> & { roles: Role[] }
const signature = (t: NumberTable) => `${KEY} ${t.header?.join('|') ?? t.rows[0].length}`
/** How a table of the same columns was taken last. */
export function recallTaking(t: NumberTable): Remembered | null {
  try {
    return JSON.parse(localStorage.getItem(signature(t)) ?? 'null')
  } catch {
    return null
  }
}
export function rememberTaking(t: NumberTable, how: Remembered): void {
  try {
    localStorage.setItem(signature(t), JSON.stringify(how))
  } catch {
    // A browser that keeps nothing asks again.
  }
}
