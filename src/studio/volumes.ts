import type { GasDoc, ObjectDoc, Shot } from '../shot'
import { add } from './adding'
import type { api } from './api'
import { newAct, newGas, newObject } from './create'
import { holesIn, listed, withoutHoles } from './numberedFiles'
import { edit, select, shotNow } from './store'

type Stored = Awaited<ReturnType<typeof api.upload>>
/** Optical thickness of brought smoke across it at a density of one: to be seen at once, and not solid. */
const THICK = 12

/** Where a file's volume stands: not seen itself where it is smoke; a solid is. */
function objectOf(name: string, assets: readonly Stored[], rate: number): ObjectDoc {
  const [first, ...rest] = withoutHoles(assets)
  const object = newObject(shotNow(), name, {
    ...{ kind: 'mesh', asset: first.hash, unit: 1, up: 'y', poses: rest.map((a) => a.hash) },
    ...{ rate, start: 0, speed: 1, after: 'hold' },
  })
  const solid = isSolid(first)
  object.roles.collider = solid
  object.seen = solid
  object.shadow = solid
  return object
}
export const isSolid = (a: Stored): boolean =>
  !!a.info.volume?.grids.length && a.info.volume.grids.every((g) => g.kind === 'level set' || g.channels === 3)
function gasOf(object: ObjectDoc, a: Stored): GasDoc {
  const { min, max } = a.info.bounds
  const size = Math.max(0.01, ...max.map((v, i) => v - min[i]))
  const middle = max.map((v, i) => (v + min[i]) / 2)
  const gas = newGas(shotNow(), newAct('fromFile', { object: object.id }), middle, size, `Smoke of ${object.name}`)
  const voxel = Number((a.info.volume?.voxel ?? size / 60).toPrecision(6))
  return {
    ...gas,
    motion: [],
    voxel: voxel > 0 ? voxel : gas.voxel,
    look: [newAct('smoke', { extinction: Number((THICK / size).toPrecision(2)) })],
  }
}
/**
 * One file of volumes, or a numbered row of them: an object that says where they stand, and, where it holds smoke, a gas that is what they say.
 * Returns what there is to say of it.
 */
export function takeVolume(name: string, assets: readonly Stored[]): string {
  const [first] = assets
  const { rate } = shotNow()
  const object = objectOf(name, assets, rate.num / rate.den)
  const gas = isSolid(first) ? null : gasOf(object, first)
  const files = (s: Shot) => {
    for (const a of assets) if (!s.assets.some((x) => x.hash === a.hash)) s.assets.push({ hash: a.hash, name: a.name })
  }
  if (gas) {
    edit(`the volume ${object.name}`, (s) => {
      files(s)
      s.objects.push(object)
      s.gases.push(gas)
    })
    select(gas.id)
  } else add('objects', object, files)
  const grids = first.info.volume?.grids.map((g) => g.name || 'without a name') ?? []
  const holes = assets.length > 1 ? holesIn(assets.map((a) => a.name)) : []
  return [
    `${object.name}: ${assets.length > 1 ? `${assets.length} files, one a frame, ` : ''}grids ${grids.join(', ')}.`,
    gas ? 'Move, turn, scale and copy the object; the gas says how it looks.' : 'It is the solid that its level set says.',
    ...(holes.length
      ? [
          `Number ${listed(holes)} ${holes.length === 1 ? 'is' : 'are'} missing; the one before stands in for ${holes.length === 1 ? 'it' : 'them'}.`,
        ]
      : []),
    ...first.info.notes.map((n) => `${n}.`),
  ].join(' ')
}
