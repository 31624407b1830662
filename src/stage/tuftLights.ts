import { drawsOf, lightShare, systemMatrices } from '../acts'
import { partsOf } from '../engine'
import type { Shot } from '../shot'
import type { DrawContext, Prepare } from './drawer'
import type { GasShade } from './gasShadow'
import type { Around } from './shades'
import { TuftLight, type TuftMember } from './tuftLight'

/** The most voxels of a cloud, of a preview and else. */
const QUICK_VOXELS = 600_000
const FINE_VOXELS = 2_400_000

/** The light of all tufts of a shot: systems whose tufts scatter light alike lie in one cloud, and shade each other. */
export class TuftLights {
  private all = new Map<string, TuftLight>()
  private bySystem = new Map<string, TuftLight>()

  /** Makes ready what the frame holds. */
  prepare({ machine, shot, frame, meshes, t, share }: Prepare): void {
    const groups = new Map<string, { systems: string[]; members: TuftMember[] }>()
    for (const part of partsOf(frame.parts, 'points')) {
      const system = shot.systems.find((s) => s.id === part.element && !s.muted)
      if (!system || !part.count) continue
      const draws = drawsOf(shot, system, t, frame.parts)
      const tuft = draws.find((d) => d.tuft)?.tuft
      if (!tuft) continue
      const shares = shot.lights.map((l) => lightShare(l, system.id))
      const key = JSON.stringify([tuft.shade, tuft.again, tuft.forward, tuft.surroundings, shares])
      const group = groups.get(key) ?? { systems: [], members: [] }
      groups.set(key, group)
      group.systems.push(system.id)
      const matrices = systemMatrices(shot, system, t, meshes, frame.parts)
      group.members.push({ part, draws, blends: system.phases.map((p) => p.blend), matrices })
    }
    this.bySystem.clear()
    const seen = new Set<string>()
    for (const { systems, members } of groups.values()) {
      // By who they are: values that move must not make another cloud for each picture.
      const key = systems.join()
      seen.add(key)
      const light = this.all.get(key) ?? new TuftLight()
      this.all.set(key, light)
      light.load(machine, members, share < 1 ? QUICK_VOXELS : FINE_VOXELS)
      for (const id of systems) this.bySystem.set(id, light)
    }
    for (const [key, light] of this.all) {
      if (seen.has(key)) continue
      light.dispose()
      this.all.delete(key)
    }
  }
  /** Of a system that has tufts. */
  of(system: string): TuftLight | null {
    return this.bySystem.get(system) ?? null
  }
  rooms(): Around[] {
    return [...this.all.values()].flatMap((l) => l.room ?? [])
  }
  /** Their shadows on the objects, in a picture of all that is `around`. */
  shades(shot: Shot, t: number, around: Around): GasShade[] {
    return [...this.all.values()].flatMap((l) => l.shade(shot, t, around) ?? [])
  }
  /** What is drawn after them may lie within. */
  inFront(c: DrawContext): void {
    for (const l of this.all.values()) l.inFront(c)
  }
  dispose(): void {
    for (const l of this.all.values()) l.dispose()
    this.all.clear()
    this.bySystem.clear()
  }
}
