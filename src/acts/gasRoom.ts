import { type Part, partOf, VOLUME_TILE, type VolumePart, volumeTile } from '../engine'
import type { GasDoc, Shot, Vec3 } from '../shot'
import { goneBy, placedMatrix, posedIn, worldMatrix } from './places'
import { storedFeeds } from './storedFeeds'

/** The room of a gas: its middle and its size, m. */
export interface GasRoom {
  middle: Vec3
  size: Vec3
}
const held = new WeakMap<VolumePart, GasRoom | null>()
/** The box of the tiles of a part; null: it holds nothing. */
function heldBy(part: VolumePart): GasRoom | null {
  const known = held.get(part)
  if (known !== undefined) return known
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let n = 0; n < part.tiles; n++)
    volumeTile(part, n).forEach((v, a) => {
      low[a] = Math.min(low[a], v)
      high[a] = Math.max(high[a], v + 1)
    })
  const edge = part.voxel * VOLUME_TILE
  const room = part.tiles
    ? {
        middle: low.map((v, a) => part.low[a] + ((v + high[a]) / 2) * edge) as Vec3,
        size: low.map((v, a) => (high[a] - v) * edge) as Vec3,
      }
    : null
  held.set(part, room)
  return room
}
/** The room of a gas at t seconds, with what it rides on; of one that files say, about what it holds in the parts of a frame. */
export function gasRoom(shot: Shot, gas: GasDoc, t: number, parts: readonly Part[] = []): GasRoom {
  const part = storedFeeds(gas).length ? partOf(parts, 'volume', gas.id) : undefined
  const own = part && heldBy(part)
  if (own) return own
  const object = shot.objects.find((o) => o.id === gas.rides)
  if (!object) return { middle: gas.place, size: gas.size }
  const by = goneBy(object, t, (o, s) => (s === t ? placedMatrix(o, s, posedIn(parts)) : worldMatrix(o, s)))
  return { middle: gas.place.map((x, a) => x + by[a]) as Vec3, size: gas.size }
}
export const gasMiddle = (shot: Shot, gas: GasDoc, t: number, parts: readonly Part[] = []): Vec3 => gasRoom(shot, gas, t, parts).middle
