import * as THREE from 'three'
import type { Meshes } from '../acts'
import type { Shot } from '../shot'
import { Panorama } from './panorama'
import { Plate } from './plate'
import { Sky } from './sky'

export interface Seen {
  shot: Shot
  meshes: Meshes
  /** s */
  t: number
  width: number
  height: number
  /** Through the shot's camera. */
  through: boolean
  transparent: boolean
}
/** What lies behind everything, and lights it from all around: a plate, a picture of light, a sky. With alpha there is nothing behind. */
export class Backdrop {
  readonly group = new THREE.Group()
  /** Whether a plate lies behind the last picture: it has been through a lens already. */
  isPlate = false
  private sky = new Sky()
  private panorama = new Panorama()
  private plate: Plate

  /** `onCome`: a picture is there, after what shows it was drawn without. */
  constructor(onCome: () => void) {
    this.plate = new Plate(onCome)
    this.group.add(this.sky.mesh, this.panorama.mesh, this.plate.mesh)
  }
  /**
   * Puts into a scene what it sees and is lit by. `around`: a picture of light is there; `state`: what it depends on beside time; `alive`: the time where
   * it changes by time alone, else empty.
   */
  set(r: THREE.WebGLRenderer, scene: THREE.Scene, p: Seen): { around: boolean; state: string; alive: string } {
    const { shot, meshes, t, width, height, transparent } = p
    const plate = p.through && !transparent && this.plate.set(shot, meshes, t, width / height)
    this.isPlate = !!plate
    if (!plate) this.plate.hide()
    const around = this.panorama.set(r, scene, shot, meshes, t, height, !transparent && !plate)
    const rule = around ? null : (shot.surroundings.sky ?? null)
    if (!around) {
      scene.environment = this.sky.mirrored(r, rule)
      scene.environmentIntensity = (rule?.mirrored ?? 0) / 100
      scene.environmentRotation.set(0, 0, 0)
    }
    const sky = transparent || plate ? null : rule
    this.sky.set(sky, t, height)
    const isAlive = plate || (sky && (sky.stars * sky.twinkle > 0 || sky.clouds * sky.drift !== 0 || sky.curtains * sky.curtainSpeed > 0))
    return { around, state: `${p.through}`, alive: isAlive ? `${t}` : '' }
  }
  /** Draws it alone, as it was set. */
  draw(r: THREE.WebGLRenderer, camera: THREE.Camera, to: THREE.WebGLRenderTarget): void {
    r.setRenderTarget(to)
    r.render(this.group, camera)
  }
  /** Whether the last picture lacks a plate that is still being decoded. */
  get waits(): boolean {
    return this.plate.waits
  }
  /** Until the plate of a moment is there. */
  ready = (shot: Shot, meshes: Meshes, t: number): Promise<void> => this.plate.ready(shot, meshes, t)
  /** After the graphics context was lost: what was drawn once and kept is no longer there. */
  forget(): void {
    this.sky.forget()
    this.panorama.forget()
  }
  dispose(): void {
    this.sky.dispose()
    this.panorama.dispose()
    this.plate.dispose()
  }
}
