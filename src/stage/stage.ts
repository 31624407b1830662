import * as THREE from 'three'
import { baseMesh, drawOf, type Meshes, readerOf, shapedOf, othersIn, systemMatrices, tieShot } from '../acts'
import { apply, type Frame, invert, type Matrix } from '../engine'
import { type Shot, timeOf } from '../shot'
import { axesOf, type Pose } from './camera'
import { geometryOf, Objects } from './objects'
import { Bloom, type BloomSettings, KEPT_SIZES, Pass } from './passes'
import { PointsView } from './points'
import type { PortraitView } from './messages'
import { portraitScene } from './portrait'
import { COMPOSITE, OUTPUT, WITH_DEPTH } from './shaders'

export interface Picture {
  /** seconds from the first frame */
  t: number
  pose: Pose
  width: number
  height: number
  /** Part of the particles that is drawn, 0 to 1, picked by hash. */
  share: number
  /** Samples per pixel at the edges of objects. */
  samples: number
  transparent: boolean
  /** With what only the View shows: wires, boxes, the chosen region. */
  editing?: boolean
}
/** Particles nearer to the lens than this share of the way to its aim fade. */
const NEAR_SHARE = 0.06
interface Targets {
  target: THREE.WebGLRenderTarget
  /** Objects with smooth edges. Particles smooth their own, and would pay four times for nothing here. */
  smooth: THREE.WebGLRenderTarget | null
}
const drop = (t: Targets) => {
  t.target.dispose()
  t.smooth?.depthTexture?.dispose()
  t.smooth?.dispose()
}
/** A place and a direction of the shot in a system's own space; of several copies the first decides the order. */
function inSpace(m: Matrix, place: THREE.Vector3, forward: THREE.Vector3): [THREE.Vector3, THREE.Vector3] {
  const into = invert(m)
  if (!into) return [place, forward]
  const p = apply(into, place.x, place.y, place.z)
  // Depth is a plane: its direction goes by the matrix's own rows.
  return [
    new THREE.Vector3(...p),
    new THREE.Vector3(
      m[0] * forward.x + m[4] * forward.y + m[8] * forward.z,
      m[1] * forward.x + m[5] * forward.y + m[9] * forward.z,
      m[2] * forward.x + m[6] * forward.y + m[10] * forward.z,
    ),
  ]
}
const half = (w: number, h: number) =>
  new THREE.WebGLRenderTarget(w, h, { type: THREE.HalfFloatType, magFilter: THREE.LinearFilter, minFilter: THREE.LinearFilter })

/** Draws frames. The View and final renders use this same class; what differs is in Picture. */
export class Stage {
  readonly renderer: THREE.WebGLRenderer
  readonly objects = new Objects()
  readonly camera = new THREE.PerspectiveCamera()
  private points = new Map<string, PointsView>()
  private bloom = new Bloom()
  private output = new Pass(OUTPUT, { source: null, glow: null, strength: 0, transparent: 0, dither: 1 })
  private over: Record<'add' | 'normal', Pass>
  private targets = new Map<string, Targets>()
  private smooth: THREE.WebGLRenderTarget | null = null
  private withDepth = new Pass(WITH_DEPTH, { source: null, depth: null })
  private own: THREE.WebGLRenderTarget | null = null
  private shot: Shot | null = null
  private meshes: Meshes = new Map()
  private frame: Frame | null = null
  private depthOnly = new THREE.MeshBasicMaterial({ colorWrite: false, side: THREE.DoubleSide })

  constructor(canvas: HTMLCanvasElement | OffscreenCanvas) {
    this.renderer = new THREE.WebGLRenderer({
      canvas,
      antialias: false,
      alpha: false,
      stencil: false,
      depth: false,
      powerPreference: 'high-performance',
    })
    this.renderer.autoClear = false
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace
    this.renderer.toneMapping = THREE.NoToneMapping
    this.renderer.shadowMap.enabled = true
    this.renderer.shadowMap.type = THREE.PCFShadowMap
    const composite = (mode: 'add' | 'normal') => {
      const p = new Pass(COMPOSITE, { source: null }, THREE.CustomBlending)
      p.material.blendSrc = p.material.blendSrcAlpha = THREE.OneFactor
      p.material.blendDst = mode === 'add' ? THREE.OneFactor : THREE.OneMinusSrcAlphaFactor
      // A system that covers inside but adds to the picture is light for the picture.
      p.material.blendSrcAlpha = mode === 'add' ? THREE.ZeroFactor : THREE.OneFactor
      p.material.blendDstAlpha = mode === 'add' ? THREE.OneFactor : THREE.OneMinusSrcAlphaFactor
      return p
    }
    this.withDepth.material.depthTest = true
    this.withDepth.material.depthWrite = true
    this.withDepth.material.depthFunc = THREE.AlwaysDepth
    this.over = { add: composite('add'), normal: composite('normal') }
  }
  /** Whether the browser draws without a GPU: previews then begin at a lower scale. */
  get software(): boolean {
    const gl = this.renderer.getContext()
    const info = gl.getExtension('WEBGL_debug_renderer_info')
    return info ? /swiftshader|llvmpipe|software/i.test(String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL))) : false
  }
  setShot(shot: Shot, meshes: Meshes): void {
    tieShot(shot)
    this.shot = shot
    this.meshes = meshes
    this.objects.load(shot, meshes)
    for (const [id, view] of this.points) {
      if (shot.systems.some((s) => s.id === id)) continue
      view.dispose()
      this.points.delete(id)
    }
  }
  setFrame(frame: Frame): void {
    this.frame = frame
    this.objects.setPoses(frame.poses)
    for (const part of frame.parts) {
      if (!this.shot?.systems.some((s) => s.id === part.element)) continue
      let view = this.points.get(part.element)
      if (!view) this.points.set(part.element, (view = new PointsView()))
      view.load(part)
    }
  }
  setPose(pose: Pose, aspect: number): void {
    const { up } = axesOf(pose)
    const c = this.camera
    c.fov = (2 * Math.atan(18 / pose.lens / aspect) * 180) / Math.PI
    c.aspect = aspect
    const distance = Math.hypot(...pose.place.map((v, i) => v - pose.aim[i]))
    c.near = Math.max(0.01, Math.min(0.1, distance / 100))
    c.far = Math.max(500, distance * 20)
    c.position.set(...pose.place)
    c.up.set(...up)
    c.lookAt(...pose.aim)
    c.updateProjectionMatrix()
    c.updateMatrixWorld()
  }
  /**
   * Targets of the sizes drawn last: the View goes to and fro between a preview and the sharp picture, and making them anew costs more than
   * drawing.
   */
  private resize(width: number, height: number, samples: number): THREE.WebGLRenderTarget {
    const key = `${width}x${height}x${samples}`
    let made = this.targets.get(key)
    this.targets.delete(key)
    made ??= {
      target: half(width, height),
      smooth:
        samples > 0
          ? new THREE.WebGLRenderTarget(width, height, {
              type: THREE.HalfFloatType,
              samples,
              depthTexture: new THREE.DepthTexture(width, height, THREE.UnsignedIntType),
              magFilter: THREE.NearestFilter,
              minFilter: THREE.NearestFilter,
            })
          : null,
    }
    this.targets.set(key, made)
    for (const [old, t] of this.targets) {
      if (this.targets.size <= KEPT_SIZES) break
      this.targets.delete(old)
      drop(t)
    }
    if (this.own && (this.own.width !== width || this.own.height !== height)) {
      this.own.dispose()
      this.own = null
    }
    this.smooth = made.smooth
    return made.target
  }
  private bloomSettings(t: number): BloomSettings | null {
    const act = this.shot?.layers[0].finish.filter((a) => a.kind === 'bloom' && !a.muted).at(-1)
    if (!act || this.shot?.layers[0].muted) return null
    const p = readerOf(act)
    return {
      from: p.number('from', t),
      softness: p.number('softness', t) / 100,
      spread: p.number('spread', t) / 100,
      strength: p.number('strength', t) / 100,
    }
  }
  /** Draws into the canvas, which takes the picture's size. */
  draw(p: Picture, to: THREE.WebGLRenderTarget | null = null): void {
    const shot = this.shot
    if (!shot) return
    const r = this.renderer
    if (!to) r.setSize(p.width, p.height, false)
    this.setPose(p.pose, p.width / p.height)
    const target = this.resize(p.width, p.height, p.samples)
    const fresh = this.objects.place(p.t, p.editing)
    for (const l of this.objects.scene.children)
      if (fresh && 'shadow' in l && (l as THREE.SpotLight).castShadow) (l as THREE.SpotLight).shadow.needsUpdate = true
    r.setRenderTarget(this.smooth ?? target)
    const [cr, cg, cb] = shot.surroundings.colour
    r.setClearColor(new THREE.Color().setRGB(cr, cg, cb), p.transparent ? 0 : 1)
    if (p.transparent) r.setClearColor(0, 0)
    r.clear()
    r.render(this.objects.scene, this.camera)
    if (this.smooth) this.withDepth.set({ source: this.smooth.texture, depth: this.smooth.depthTexture }).run(r, target)
    const forward = this.camera.getWorldDirection(new THREE.Vector3())
    const near = NEAR_SHARE * Math.hypot(...p.pose.place.map((v, i) => v - p.pose.aim[i]))
    const light = this.objects.firstLight(this.camera)
    for (const system of shot.systems) {
      const view = this.points.get(system.id)
      if (!view || system.muted || !this.frame?.parts.some((x) => x.element === system.id)) continue
      const draw = drawOf(shot, system, p.t)
      const matrices = systemMatrices(shot, system, p.t, this.meshes, this.frame.poses)
      if (draw.inside === 'normal') view.sort(...inSpace(matrices[0], this.camera.position, forward))
      if (draw.inside === draw.onto) {
        view.prepare(draw, p.width, p.height, p.share, draw.onto, near, matrices, light)
        r.setRenderTarget(target)
        r.render(view.scene, this.camera)
        continue
      }
      // Mixed: the system on its own, behind the same objects, then over the picture as one thing.
      if (!this.own) this.own = half(p.width, p.height)
      r.setRenderTarget(this.own)
      r.setClearColor(0, 0)
      r.clear()
      this.objects.scene.overrideMaterial = this.depthOnly
      r.render(this.objects.scene, this.camera)
      this.objects.scene.overrideMaterial = null
      view.prepare(draw, p.width, p.height, p.share, draw.inside, near, matrices, light)
      r.render(view.scene, this.camera)
      this.over[draw.onto].set({ source: this.own.texture }).run(r, target)
    }
    const bloom = this.bloomSettings(p.t)
    const glow = bloom && bloom.strength > 0 ? this.bloom.run(r, target, bloom) : null
    this.output.set({ source: target.texture, glow, strength: glow ? bloom?.strength : 0, transparent: p.transparent ? 1 : 0 }).run(r, to)
  }
  /** Draws and reads back straight-alpha RGBA, top row first. */
  read(p: Picture): Uint8Array {
    return this.readBack(p.width, p.height, (to) => this.draw(p, to))
  }
  /** One object alone, small, on nothing, as a column of the board sees it; null when it has no geometry. */
  portrait(element: string, view: PortraitView, region: string | null, width: number, height: number): Uint8Array | null {
    const o = this.shot?.objects.find((x) => x.id === element)
    const base = o && baseMesh(o, this.meshes)
    if (!this.shot || !o || !base?.mesh.indices.length) return null
    const { mesh, at } = shapedOf(o, base, o.regions.length > 0, othersIn(this.shot, this.meshes))
    const t = this.frame ? timeOf(this.shot, this.frame.frame) : 0
    const own = at ? this.objects.placed(o.id)?.mesh.geometry : null
    const p = portraitScene(
      this.shot,
      o,
      mesh,
      own ?? geometryOf(mesh),
      view,
      this.objects.amounts(o, region, this.shot, t),
      this.frame,
      width / height,
    )
    const linear = new THREE.WebGLRenderTarget(width, height, { type: THREE.HalfFloatType, samples: 4 })
    try {
      return this.readBack(width, height, (to) => {
        const r = this.renderer
        r.setRenderTarget(linear)
        r.setClearColor(0, 0)
        r.clear()
        r.render(p.scene, p.camera)
        this.output.set({ source: linear.texture, glow: null, strength: 0, transparent: 1 }).run(r, to)
      })
    } finally {
      linear.dispose()
      p.dispose()
    }
  }
  private readBack(width: number, height: number, draw: (to: THREE.WebGLRenderTarget) => void): Uint8Array {
    const to = new THREE.WebGLRenderTarget(width, height, { type: THREE.UnsignedByteType, depthBuffer: false })
    try {
      draw(to)
      const upside = new Uint8Array(width * height * 4)
      this.renderer.readRenderTargetPixels(to, 0, 0, width, height, upside)
      const out = new Uint8Array(upside.length)
      const row = width * 4
      for (let y = 0; y < height; y++) out.set(upside.subarray((height - 1 - y) * row, (height - y) * row), y * row)
      return out
    } finally {
      to.dispose()
    }
  }
  /** Waits for the GPU, so that a measured time is a real one. */
  finish(): void {
    const gl = this.renderer.getContext() as WebGL2RenderingContext
    gl.readPixels(0, 0, 1, 1, gl.RGBA, gl.UNSIGNED_BYTE, new Uint8Array(4))
  }
  /** The object or system under a point of the picture (−1…1, y up), or null. */
  pick(x: number, y: number, aspect: number): string | null {
    const ray = new THREE.Raycaster()
    ray.setFromCamera(new THREE.Vector2(x, y), this.camera)
    const hit = ray.intersectObjects(this.objects.targets, false)[0]
    const near = this.nearestSystem(x, y, aspect, hit?.distance ?? Infinity)
    return near ?? hit?.object.name ?? null
  }
  /**
   * Where a ray through a point of the picture meets an object first, in the object's own space before its points are moved; null beside
   * it. What lies in front of it does not count: the brush paints what is chosen.
   */
  brush(id: string, x: number, y: number): { place: [number, number, number]; at: [number, number, number]; scale: number } | null {
    const p = this.objects.placed(id)
    if (!p) return null
    const ray = new THREE.Raycaster()
    ray.setFromCamera(new THREE.Vector2(x, y), this.camera)
    const hit = ray.intersectObject(p.mesh, false)[0]
    if (!hit?.face) return null
    const { a, b, c } = hit.face
    const at = p.mesh.geometry.getAttribute('position')
    const [va, vb, vc] = [a, b, c].map((v) => new THREE.Vector3().fromBufferAttribute(at, v))
    const w = THREE.Triangle.getBarycoord(p.mesh.worldToLocal(hit.point.clone()), va, vb, vc, new THREE.Vector3())
    if (!w) return null
    const place = [0, 1, 2].map((k) => p.rest[a * 3 + k] * w.x + p.rest[b * 3 + k] * w.y + p.rest[c * 3 + k] * w.z) as [
      number,
      number,
      number,
    ]
    // Metres of the shot in one of its own, for the ring that shows the brush.
    return { place, at: hit.point.toArray(), scale: Math.cbrt(Math.abs(p.mesh.matrixWorld.determinant())) }
  }
  private nearestSystem(x: number, y: number, aspect: number, before: number): string | null {
    const view = new THREE.Matrix4().multiplyMatrices(this.camera.projectionMatrix, this.camera.matrixWorldInverse)
    let best = 0.012 ** 2
    let out: string | null = null
    for (const part of this.frame?.parts ?? []) {
      const system = this.shot?.systems.find((s) => s.id === part.element)
      if (!this.shot || !system || !this.frame) continue
      const f = new Float32Array(part.data, 0, part.count * 3)
      for (const a of systemMatrices(this.shot, system, timeOf(this.shot, this.frame.frame), this.meshes, this.frame.poses)) {
        const m = new THREE.Matrix4().multiplyMatrices(
          view,
          new THREE.Matrix4().set(a[0], a[1], a[2], a[3], a[4], a[5], a[6], a[7], a[8], a[9], a[10], a[11], 0, 0, 0, 1),
        ).elements
        for (let i = 0; i < part.count; i++) {
          const px = f[i],
            py = f[part.count + i],
            pz = f[2 * part.count + i]
          const w = m[3] * px + m[7] * py + m[11] * pz + m[15]
          if (w < 0.01 || w > before) continue
          const dx = (m[0] * px + m[4] * py + m[8] * pz + m[12]) / w - x
          const dy = ((m[1] * px + m[5] * py + m[9] * pz + m[13]) / w - y) / aspect
          const d = dx * dx + dy * dy
          if (d < best) {
            best = d
            out = part.element
          }
        }
      }
    }
    return out
  }
  dispose(): void {
    for (const v of this.points.values()) v.dispose()
    this.points.clear()
    this.objects.dispose()
    this.bloom.dispose()
    this.output.dispose()
    this.over.add.dispose()
    this.over.normal.dispose()
    for (const t of this.targets.values()) drop(t)
    this.targets.clear()
    this.withDepth.dispose()
    this.own?.dispose()
    this.depthOnly.dispose()
    this.renderer.dispose()
  }
}
