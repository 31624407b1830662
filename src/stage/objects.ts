import * as THREE from 'three'
import { ambientOf, baseMesh, drawsOf, isLine, type Meshes, othersIn, regionOf, shadowLight, shapedOf } from '../acts'
import type { Flame, Frame, Mesh, PlacePart } from '../engine'
import { changes, type GasDoc, type LightDoc, moves, type ObjectDoc, type Shot, type SystemDoc } from '../shot'
import { HIDERS, hider } from './behind'
import { Bodies, type BodyFaces } from './bodies'
import type { BodyView } from './bodyLevels'
import { Catcher, caughtLight } from './catcher'
import { type GasShade, GasShadow } from './gasShadow'
import { Lamps } from './lamps'
import { LightShares } from './lightShares'
import { boxLines, edgeLines, RegionView } from './overlays'
import { faceCamera, type Placed, placeObject, reshape } from './placing'
import { plateOf } from './plate'
import { Solids } from './solids'
import { SurfaceBumps } from './surfaceBumps'
import { SurfaceRamp } from './surfaceRamp'
import { groupsOf, makingKey, makingOf, materialsOf, Textures } from './textures'

const geometries = new WeakMap<Mesh, THREE.BufferGeometry>()
export function geometryOf(mesh: Mesh): THREE.BufferGeometry {
  const known = geometries.get(mesh)
  if (known) return known
  const g = new THREE.BufferGeometry()
  g.setAttribute('position', new THREE.BufferAttribute(mesh.positions, 3))
  if (mesh.normals) g.setAttribute('normal', new THREE.BufferAttribute(mesh.normals, 3))
  if (mesh.colours) g.setAttribute('color', new THREE.BufferAttribute(mesh.colours, 3))
  g.setIndex(new THREE.BufferAttribute(mesh.indices, 1))
  groupsOf(mesh, g)
  geometries.set(mesh, g)
  return g
}
/** One that changes shape has a geometry of its own, whose vertices are written again. */
function changingGeometry(mesh: Mesh): THREE.BufferGeometry {
  const g = new THREE.BufferGeometry()
  const attribute = (data: Float32Array) => new THREE.BufferAttribute(data.slice(), 3).setUsage(THREE.DynamicDrawUsage)
  g.setAttribute('position', attribute(mesh.positions))
  if (mesh.normals) g.setAttribute('normal', attribute(mesh.normals))
  if (mesh.colours) g.setAttribute('color', new THREE.BufferAttribute(mesh.colours, 3))
  g.setIndex(new THREE.BufferAttribute(mesh.indices, 1))
  groupsOf(mesh, g)
  return g
}

/** Gases do, and systems of tufts. */
const dimsSoftly = (shot: Shot, e: GasDoc | SystemDoc): boolean => !('phases' in e) || drawsOf(shot, e, 0).some((d) => d.tuft)
const givesApart = (m: THREE.Material): boolean =>
  m.userData.keysApart === true &&
  !m.transparent &&
  !('wireframe' in m && m.wireframe) &&
  !((m as THREE.MeshPhysicalMaterial).transmission > 0)

/** Objects and lights of a shot as three.js sees them. */
export class Objects {
  readonly scene = new THREE.Scene()
  private meshes = new Map<string, Placed>()
  private region = new RegionView()
  readonly textures = new Textures(() => this.pictureCame())
  /** A picture is there, after what shows it was drawn without. */
  pictureCame(): void {
    this.revision++
    this.onPicture()
  }
  /** Called when a picture of a file has come, after what shows it was drawn without. */
  onPicture: () => void = () => {}
  private assets: Meshes = new Map()
  private lamps = new Lamps(this.scene)
  private shares = new LightShares()
  private flames: THREE.PointLight[] = []
  private gasShadow = new GasShadow()
  private solids = new Solids(this.scene, this.gasShadow)
  private bodies = new Bodies(this.scene, this.gasShadow, this.textures)
  private shade: GasShade | null = null
  private ambient = new THREE.HemisphereLight(0xffffff, 0xffffff, 1)
  private shot: Shot | null = null
  private lastT = Number.NaN
  private moves = true
  private places: readonly PlacePart[] = []
  /** Counts what changes the picture of the objects beside time: another shot, a picture that came, a place that the simulation gave. */
  private revision = 0
  /** Counts changes of the light on them that leave them where they are. */
  private relit = 0
  private timed = true

  load(shot: Shot, assets: Meshes): void {
    this.shot = shot
    this.assets = assets
    const wanted = new Set<string>()
    for (const o of shot.objects) {
      const base = o.muted ? null : baseMesh(o, assets)
      if (!base) continue
      wanted.add(o.id)
      const shaped = shapedOf(o, base, o.regions.length > 0, othersIn(shot, assets))
      let p = this.meshes.get(o.id)
      const making = makingOf(o.material)
      const cuts = !!o.material.cutsOut
      const key = cuts ? 'cuts' : o.material.catches ? 'catches' : makingKey(making)
      if (!p || p.shaped.mesh !== shaped.mesh || !p.shaped.at !== !shaped.at || p.making !== key) {
        if (p) this.drop(p)
        const catcher = o.material.catches && !cuts ? new Catcher(this.gasShadow) : null
        const materials = catcher || cuts ? [] : materialsOf(shaped.mesh, this.textures, making)
        for (const material of materials) this.gasShadow.into(material)
        const ramp = making.ramp && materials.length ? new SurfaceRamp(making.ramp) : null
        const bumps = making.bumps && materials.length ? new SurfaceBumps() : null
        for (const material of materials) {
          ramp?.into(material, 'position')
          bumps?.into(material, 'position')
        }
        const m: Placed['mesh'] = new THREE.Mesh(
          shaped.at ? changingGeometry(shaped.mesh) : geometryOf(shaped.mesh),
          cuts ? hider() : catcher ? catcher.material : materials.length > 1 ? materials : materials[0],
        )
        m.matrixAutoUpdate = false
        m.name = o.id
        if (cuts) m.renderOrder = HIDERS
        if (catcher) m.add(catcher.depthOf(m))
        p = { mesh: m, catcher, materials, making: key, ramp, bumps, shaped, places: shaped.mesh.positions, box: null }
        this.meshes.set(o.id, p)
        this.scene.add(m)
      }
      p.shaped = shaped
      const m = p.mesh
      m.castShadow = o.shadow
      m.receiveShadow = true
      for (const material of p.materials) {
        material.flatShading = !shaped.mesh.normals
        material.vertexColors = !!shaped.mesh.colours
        material.shadowSide = THREE.DoubleSide
      }
    }
    for (const [id, p] of this.meshes) {
      if (wanted.has(id)) continue
      this.drop(p)
      this.meshes.delete(id)
    }
    this.lamps.load(shot)
    this.gasShadow.setAreas(this.lamps.areas)
    const key = shadowLight(shot)?.kind
    const isKey = key === 'spot' || key === 'sun'
    this.gasShadow.setKey(isKey ? key : null)
    this.mayBeShaded = isKey && [...shot.gases, ...shot.systems].some((e) => !e.muted && dimsSoftly(shot, e))
    if (!this.ambient.parent) this.scene.add(this.ambient)
    this.moves =
      [...this.meshes.values()].some((p) => p.shaped.at) ||
      shot.objects.some((o) => changes(o.place) || changes(o.rotate) || changes(o.scale) || changes(o.seen)) ||
      shot.lights.some((l) => changes(l.place) || changes(l.aim) || !!l.follows)
    this.lastT = Number.NaN
    this.revision++
    this.timed = this.moves || [...shot.objects, ...shot.lights, shot.surroundings].some((e) => moves(e))
  }
  /** What the picture of the objects depends on beside the camera and what gases leave of the key light: the same text, the same picture. */
  stateAt(t: number): string {
    return `${this.relit} ${this.shapeAt(t)}`
  }
  /** What their depth depends on. */
  shapeAt(t: number): string {
    return `${this.revision} ${this.timed || this.region.isShown ? t : ''}`
  }
  private mayBeShaded = false
  /** Counts what gases have left of the key light. */
  shadeRevision = 0
  /**
   * How gases shade what is drawn now: 'apart', laid over the picture of the objects when that is there, where all that is drawn can give the key light's
   * share apart and has a depth of its own; 'within' it otherwise; null: not at all. So it is from the first frame on, before anything shades, since
   * each way needs programs of its own.
   */
  get shading(): 'apart' | 'within' | null {
    if (!this.mayBeShaded) return null
    let [some, apart] = [false, true]
    this.scene.traverseVisible((o) => {
      const material = (o as THREE.Mesh).material as THREE.Material | THREE.Material[] | undefined
      if (!material || o.parent === this.backdrop) return
      some = true
      if (![material].flat().every(givesApart)) apart = false
    })
    return some ? (apart ? 'apart' : 'within') : null
  }
  /** Whether neither they nor the lights on them change over time. */
  get standStill(): boolean {
    return !this.timed && !this.shining.length && !this.places.length && this.bodies.group.children.length === 0 && this.solids.isEmpty
  }
  /** In the next picture of the objects the key light's share lies apart, as if no gas stood in its way. */
  setApart(apart: boolean): void {
    this.gasShadow.setApart(apart)
  }
  get gasLeft(): Pick<GasShadow, 'forShade' | 'forKernels'> {
    return this.gasShadow
  }
  private drop(p: Placed): void {
    this.scene.remove(p.mesh)
    if (p.shaped.at) p.mesh.geometry.dispose()
    for (const material of p.materials) material.dispose()
    if (p.making === 'cuts') (p.mesh.material as THREE.Material).dispose()
    p.catcher?.dispose()
    p.ramp?.dispose()
    if (p.box) {
      this.scene.remove(p.box)
      p.box.geometry.dispose()
    }
  }
  /** The region of an object that the View draws over it, or none. */
  showRegion(object: string | null, region: string | null): void {
    this.region.choose(object, region)
    this.revision++
  }
  /** Amounts of a region of an object now; null without one. */
  amounts(o: ObjectDoc, region: string | null, shot: Shot, t: number): Float32Array | null {
    const p = this.meshes.get(o.id)
    const r = o.regions.find((x) => x.id === region)
    return p && r ? regionOf(o, r, p.shaped, othersIn(shot, this.assets))(t) : null
  }
  /** Its geometry as it was drawn last, and where its vertices lie before they are moved: for the brush. */
  placed(id: string): { mesh: THREE.Mesh; rest: Float32Array } | null {
    const p = this.meshes.get(id)
    return p ? { mesh: p.mesh, rest: p.shaped.rest } : null
  }
  /** Where the simulation has the objects that it moves. */
  setPlaces(places: readonly PlacePart[]): void {
    if (places.length || this.places.length) {
      this.lastT = Number.NaN
      this.revision++
    }
    this.places = places
  }
  /** Lights of what shines and is no object. As many as there were once are kept: another number of lights makes all materials anew. */
  setFlames(flames: readonly Flame[]): void {
    for (let n = this.flames.length; n < flames.length; n = this.flames.length) {
      const wanted = n === 0 ? 2 : n * 2
      while (this.flames.length < wanted) {
        const l = new THREE.PointLight(0xffffff, 1, 0, 2)
        this.flames.push(l)
        this.scene.add(l)
      }
    }
    this.shining = flames
    const state = JSON.stringify(flames)
    if (state === this.lastFlames) return
    this.lastFlames = state
    this.relit++
    this.flames.forEach((l, i) => {
      const f = flames[i]
      l.intensity = f ? 1 : 0
      if (!f) return
      l.position.set(...f.place)
      l.color.setRGB(...f.power)
    })
  }
  private lastFlames = '[]'
  private shining: readonly Flame[] = []
  private lastStand = ''
  private lastEye = ''
  /** Whether the picture has alpha: then nothing is seen bent through what is clear. */
  setAlpha(alpha: boolean): void {
    this.alpha = this.bodies.alpha = alpha
  }
  private alpha = false
  /** Strips and particles that are bodies; `shares`: parts of either that are shown; `ahead`: seconds that particles have gone on since the frame. */
  setSolids(frame: Frame, t: number, shares: { strips: number; points: number }, view: BodyView, ahead: number): void {
    if (!this.shot) return
    const strips = this.solids.update(this.shot, frame, this.assets, t, shares.strips)
    const points = this.bodies.update(this.shot, frame, this.assets, t, shares.points, view, ahead)
    if (!strips && !points) return
    this.revision++
    this.lastT = Number.NaN
  }
  /** Faces of the bodies of each system in the last picture. */
  get bodyFaces(): ReadonlyMap<string, BodyFaces> {
    return this.bodies.faces
  }
  /** What gases leave of the light that throws shadows; null: all. */
  setGasShadow(shade: GasShade | null): void {
    if (shade === this.shade) return
    this.shade = shade
    const shaded = this.gasShadow.shades
    this.gasShadow.set(shade)
    if (shaded || this.gasShadow.shades) this.shadeRevision++
  }
  /** What solid objects hide of each other in the next picture of them; null: nothing is known of it. */
  setHiding(farthest: THREE.Texture | null): void {
    this.gasShadow.setHiding(farthest)
  }
  setSmoothShadows(smooth: boolean): void {
    this.gasShadow.setSmooth(smooth)
  }
  /**
   * Puts everything where it is at time t. `lights`: the shot's, where they stand then; `editing`: with what only the View shows; `around`:
   * whether a picture of light is there in place of the even light. Returns whether shadows must be drawn
   * again.
   */
  place(t: number, lights: readonly LightDoc[], how: { editing?: boolean; around: boolean; camera: THREE.Camera }): boolean {
    const shot = this.shot
    if (!shot) return false
    const { editing = false, around, camera } = how
    const plate = plateOf(shot)?.plate
    const light = [...this.meshes.values()].some((p) => p.catcher) ? caughtLight(shot, lights, t, this.shining) : null
    for (const o of shot.objects) {
      const p = this.meshes.get(o.id)
      if (!p) continue
      reshape(p, t)
      placeObject(p, o, t, this.places, this.alpha)
      if (o.faces && o.faces !== 'no') faceCamera(p.mesh, o, camera)
      p.ramp?.set(o.material, shot.shared.looks, p.shaped.mesh, t)
      p.bumps?.set(o.material, t)
      if (light) p.catcher?.set(o, t, light)
      // What lies behind everything is seen nowhere else.
      if (o.id === plate) p.mesh.visible = false
      // A line has nothing to be drawn but what the View draws of it.
      const shown = editing ? (isLine(o.shape) ? 'box' : o.shown) : 'full'
      for (const material of p.materials) material.wireframe = shown === 'wire'
      if (shown === 'box' && p.mesh.visible) {
        if (!p.box) this.scene.add((p.box = isLine(o.shape) ? edgeLines(p.mesh.geometry) : boxLines(p.shaped.mesh)))
        p.box.matrix.copy(p.mesh.matrix)
        p.box.matrixWorldNeedsUpdate = true
      }
      if (p.box) p.box.visible = shown === 'box' && p.mesh.visible
      if (shown === 'box') p.mesh.visible = false
    }
    this.region.place(this.scene, editing, shot, this.assets, t, (id) => this.meshes.get(id) ?? null)
    this.lamps.place(lights, t)
    this.shares.set(this.scene, lights, this.lamps.idOf)
    const { above, below } = ambientOf(shot, t)
    this.ambient.color.setRGB(...above)
    this.ambient.groundColor.setRGB(...below)
    // What is all around lights by itself, from where each of its pixels is.
    this.ambient.intensity = around ? 0 : Math.PI
    this.gasShadow.setAround(around)
    const stand = shot.lights.some((l) => l.follows) ? JSON.stringify(lights) : ''
    if (stand !== this.lastStand) {
      this.lastStand = stand
      this.lastT = Number.NaN
      this.relit++
    }
    // What turns to the camera shades otherwise from elsewhere.
    const eye = shot.objects.some((o) => o.faces && o.faces !== 'no') ? `${camera.matrixWorld.elements}` : ''
    const fresh = Number.isNaN(this.lastT) || (this.moves && t !== this.lastT) || eye !== this.lastEye
    this.lastEye = eye
    this.lastT = t
    return fresh
  }
  /** Whether shadows are soft by the sizes of their lights: another kind of shadow map. */
  get softShadows(): boolean {
    return this.lamps.soft
  }
  firstLight = (camera: THREE.Camera): THREE.Vector4 => this.lamps.first(camera)
  /** Draws them for their depth alone: with one material, and bodies of particles with their own. */
  renderDepth(r: THREE.WebGLRenderer, camera: THREE.Camera, material: THREE.Material): void {
    this.bodies.group.visible = false
    this.renderPlain(r, camera, material)
    this.bodies.group.visible = true
    this.bodies.renderDepth(r, camera)
  }
  /** Everything that is drawn; the names are those of the elements. */
  get all(): THREE.Object3D[] {
    return [...this.scene.children, ...this.bodies.group.children]
  }
  /** The mesh of an object; null where it has none. */
  meshOf(id: string): THREE.Mesh | null {
    return this.meshes.get(id)?.mesh ?? null
  }
  /** Draws the scene with one material and without what lies behind everything. */
  renderPlain(r: THREE.WebGLRenderer, camera: THREE.Camera, material: THREE.Material): void {
    const behind = this.backdrop?.visible
    if (this.backdrop) this.backdrop.visible = false
    this.scene.overrideMaterial = material
    r.render(this.scene, camera)
    this.scene.overrideMaterial = null
    if (this.backdrop) this.backdrop.visible = !!behind
  }
  /** What lies behind everything, without a depth: a group. */
  setBackdrop(behind: THREE.Object3D): void {
    this.backdrop = behind
    this.scene.add(behind)
  }
  private backdrop: THREE.Object3D | null = null
  /** What is seen but throws no shadow, at all or in this light. */
  withoutShadow(shot: Shot, light: LightDoc): THREE.Mesh[] {
    return shot.objects.flatMap((o) => {
      const m = this.meshes.get(o.id)?.mesh
      const shades = o.shadow && !light.shares?.some((s) => s.of === o.id && !s.shadow)
      return m?.visible && !shades ? [m] : []
    })
  }
  /** Everything that a ray can meet. */
  get targets(): THREE.Object3D[] {
    return [...this.meshes.values()].map((p) => p.mesh).filter((m) => m.visible)
  }
  dispose(): void {
    for (const p of this.meshes.values()) this.drop(p)
    this.region.dispose()
    this.solids.dispose()
    this.bodies.dispose()
    this.gasShadow.dispose()
    this.textures.dispose()
    this.lamps.dispose()
    this.meshes.clear()
  }
}
