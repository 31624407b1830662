import { findAsked, type Meshes, systemMatrices } from '../acts'
import { type Asker, type Frame, type Part, partsOf } from '../engine'
import type { Shot } from '../shot'
import type { Drawer } from './drawer'
import type { GasShade } from './gasShadow'
import { joinLefts } from './joinFronts'
import { aroundAll } from './shades'
import type { TuftLights } from './tuftLights'

/** Asks kernels what looks ask of particles that their frame does not say. */
export function askAll(asker: Asker, shot: Shot, frame: Frame, meshes: Meshes, t: number): void {
  for (const part of partsOf(frame.parts, 'points')) {
    const system = shot.systems.find((s) => s.id === part.element && !s.muted)
    if (!system || !part.count) continue
    const [matrix] = systemMatrices(shot, system, t, meshes, frame.parts)
    if (matrix) findAsked(asker, { shot, system, part, matrix, meshes, t, parts: frame.parts })
  }
}
/** The shadow of all that dims light softly: of one it is the same while nothing changes, of several while each of theirs is. */
export class SoftShade {
  private shades: GasShade[] = []
  private ofAll: GasShade | null = null

  of(drawers: readonly Drawer[], tufts: TuftLights, shot: Shot, t: number, parts: readonly Part[]): GasShade | null {
    const rooms = [...drawers.flatMap((d) => d.room?.(shot, t, parts) ?? []), ...tufts.rooms()]
    if (!rooms.length) return null
    const around = aroundAll(rooms)
    const shades = [...drawers.flatMap((d) => d.shade?.(shot, t, around) ?? []), ...tufts.shades(shot, t, around)]
    if (shades.length < 2) return shades[0] ?? null
    if (shades.length !== this.shades.length || shades.some((s, i) => s !== this.shades[i])) {
      this.shades = shades
      this.ofAll = { rows: shades[0].rows, front: shades.map((s) => s.front).reduce(joinLefts) }
    }
    return this.ofAll
  }
}
