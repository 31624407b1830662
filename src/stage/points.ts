import * as THREE from 'three'
import {
  askedOf,
  type Draw,
  drawnPlaces,
  drawsByPhase,
  LOOK_SAMPLES,
  looksOf,
  lookTable,
  type Places,
  reliefsOf,
  systemMatrices,
} from '../acts'
import { apply, hash3, invert, type Matrix, type PointsPart, pointColumn, unit } from '../engine'
import { brightestOf, coversBy, setBlending, setUnder } from './blending'
import { columnAt, drawnColumns, writeColumns, writeNumbers } from './columns'
import type { DrawContext, Drawer, LightCells } from './drawer'
import { leaveOut } from './leaveOut'
import { MappingUniforms } from './mappingUniforms'
import { fullscreen } from './passes'
import { FULLSCREEN_VERTEX, PARTICLE_FRAGMENT, PARTICLE_VERTEX } from './shaders'
import { SPRITE_FRAGMENT } from './spriteShaders'
import { Sprites } from './sprites'
import type { Sliced } from './together'
import { TuftLight } from './tuftLight'
import { TUFT_FRAGMENT } from './tuftShaders'
import { WordTexture } from './wordTexture'

type V3 = readonly [number, number, number]

/** A bit for each phase; every bit when all phases are drawn alike. */
const ALL_PHASES = 0xffffffff
/** Of a system: a bit for each. */
const MOST_PHASES = 32
const maskOf = (phases: readonly number[]): number => phases.reduce((mask, p) => (mask | (1 << p)) >>> 0, 0)

/** A place and a direction of the shot in a system's own space; of several copies the first decides the order. */
function inSpace(m: Matrix, place: V3, forward: V3): [V3, V3] {
  const into = invert(m)
  if (!into) return [place, forward]
  const [x, y, z] = forward
  // Depth is a plane: its direction goes by the matrix's own rows.
  return [apply(into, ...place), [m[0] * x + m[4] * y + m[8] * z, m[1] * x + m[5] * y + m[9] * z, m[2] * x + m[6] * y + m[10] * z]]
}
const sameVector = (a: V3, b: V3) => a[0] === b[0] && a[1] === b[1] && a[2] === b[2]

/** What the mappings of looks ask of particles, as far as it is found out. */
function askedIn(part: PointsPart, looks: readonly { draw: Draw }[]): Map<string, Float32Array> {
  const out = new Map<string, Float32Array>()
  for (const { draw } of looks)
    for (const { ask } of draw.mappings) {
      const values = ask ? askedOf(part, ask) : undefined
      if (values) out.set(ask, values)
    }
  return out
}
const sameAsked = (a: ReadonlyMap<string, Float32Array>, b: ReadonlyMap<string, Float32Array>) =>
  a.size === b.size && [...a].every(([name, values]) => b.get(name) === values)

/** The particles of one system. */
export class PointsDrawer implements Drawer<PointsPart>, Sliced {
  private scene = new THREE.Scene()
  private geometry = new THREE.BufferGeometry()
  private material: THREE.RawShaderMaterial
  /** The same with what tufts need, and sprites. */
  private tufts: THREE.RawShaderMaterial
  private sprites: THREE.RawShaderMaterial
  /** The plain one, for what fades before objects: looking at their depth costs. */
  private meeting: THREE.RawShaderMaterial
  /** What leaves tufts for kernels, a pixel each: a point each would cost as much again as working it out. */
  private sliced: THREE.RawShaderMaterial
  private slices: THREE.Mesh
  private copies: THREE.Mesh[] = []
  private looks = new Map<object, THREE.DataTexture>()
  private data = new WordTexture()
  private order = new WordTexture()
  private mappings = new MappingUniforms()
  private part: PointsPart | null = null
  /** Where its particles are drawn instead of where they are. */
  private places: Places | null = null
  /** What of the part is on the graphics side: of which share, how many, and in which order. */
  private share = 1
  private drawn = 0
  private sortedFor: { place: V3; forward: V3 } | null = null
  /** View depths of those that were sorted last. */
  private depth = new Float32Array(0)
  /** What is asked of each, by name, in columns behind those of the part. */
  private asked = new Map<string, Float32Array>()

  constructor(private system: string) {
    const uniforms = {
      ...{
        pixels: new THREE.Vector2(),
        dashS: 0,
        near: 0,
        shutter: new THREE.Vector2(),
        lensOpen: new THREE.Vector2(),
        size: 0,
        sizeVary: 0,
        sizeSeed: 0,
        taper: 0,
        brightness: 1,
        opacity: 1,
      },
      ...{
        look: null,
        covers: 0,
        brightest: 0,
        softness: 0.5,
        flake: new THREE.Vector4(),
        glint: 0,
        flakes: 0,
        light: new THREE.Vector4(),
      },
      ...{ data: null, count: 0, order: null, ordered: 0, backwards: 0, covered: null, hides: 0, phases: ALL_PHASES },
      ...{ front: null, frontDepths: null, fogFront: null, fogDepths: null },
      ...MappingUniforms.empty(),
      ...TuftLight.uniforms(),
      ...Sprites.uniforms(),
      meets: 0,
      ...{ first: 0, across: 0 },
      ...{ quaternions: 0, sizes: 0, starts: 0, befores: 0, tints: 0, perBlend: new Float32Array(MOST_PHASES) },
    }
    const shared = {
      glslVersion: THREE.GLSL3,
      vertexShader: PARTICLE_VERTEX,
      depthWrite: false,
      // Flakes show their back too.
      side: THREE.DoubleSide,
      uniforms: Object.fromEntries(Object.entries(uniforms).map(([k, value]) => [k, { value }])),
    } as const
    this.material = new THREE.RawShaderMaterial({ ...shared, fragmentShader: PARTICLE_FRAGMENT })
    this.meeting = new THREE.RawShaderMaterial({ ...shared, fragmentShader: PARTICLE_FRAGMENT, defines: { MEETS: 1 } })
    this.tufts = new THREE.RawShaderMaterial({ ...shared, fragmentShader: TUFT_FRAGMENT, defines: { TUFT: 1 } })
    this.sliced = new THREE.RawShaderMaterial({
      ...{ ...shared, vertexShader: FULLSCREEN_VERTEX, fragmentShader: PARTICLE_VERTEX, defines: { TUFT: 1, RECORD: 1 } },
      ...{ depthTest: false, blending: THREE.NoBlending },
    })
    this.slices = new THREE.Mesh(fullscreen, this.sliced)
    this.slices.frustumCulled = this.slices.matrixAutoUpdate = false
    this.sprites = new THREE.RawShaderMaterial({ ...shared, fragmentShader: SPRITE_FRAGMENT, defines: { SPRITE: 1 } })
  }
  load(part: PointsPart): void {
    if (part === this.part) return
    this.part = part
    this.upload(part)
  }
  private upload(part: PointsPart, places: Places | null = null, asked = new Map<string, Float32Array>()): void {
    this.sortedFor = null
    this.places = places
    this.asked = asked
    // Thinning happens here, by hash, so that what is not shown costs nothing; the same particles stay from frame to frame.
    const some = this.share < 1 ? this.thinned(part) : null
    const count = some ? some.length : part.count
    const own = drawnColumns(part).length
    const words = this.data.reserve(count * (own + asked.size))
    writeColumns(part, words, some)
    const floats = (column: number, columns: number) =>
      new Float32Array(words.buffer, words.byteOffset + column * count * 4, count * columns)
    if (places) writeNumbers([places.x, places.y, places.z], floats(0, 3), some)
    writeNumbers([...asked.values()], floats(own, asked.size), some)
    this.data.changed()
    this.drawn = count
  }
  private thinned(part: PointsPart): Uint32Array {
    const seeds = pointColumn(part, 'seed')
    const kept = new Uint32Array(part.count)
    let k = 0
    for (let i = 0; i < part.count; i++) if (unit(hash3(0, seeds[i], 21)) < this.share) kept[k++] = i
    return kept.subarray(0, k)
  }
  draw(c: DrawContext): void {
    const ready = this.ready(c)
    if (!ready) return
    for (const look of ready.looks) {
      const { draw } = look
      // Bodies lie among the objects.
      if (draw.solid) continue
      if (draw.inside === 'normal' && !this.sort(c, ready.matrices[0])) continue
      const composed = draw.inside !== draw.onto
      // Mixed: the system on its own, behind the same objects, then over the picture as one thing. What multiplies begins with white.
      const target = composed ? c.layer(draw.inside === 'multiply') : c.target
      if (!this.set(c, draw, look.mask)) continue
      c.renderer.setRenderTarget(target)
      this.range(0, this.drawn)
      c.renderer.render(this.scene, c.camera)
      if (composed) c.compose(draw.onto, draw.inside === 'multiply')
    }
  }
  /** Whether it can be drawn with others that hide it and are hidden by it: of one look, which covers itself and the picture. */
  joins(c: DrawContext): boolean {
    const system = c.shot.systems.find((s) => s.id === this.system)
    if (!system || system.muted || !this.part?.count) return false
    const looks = looksOf(c.shot, system, c.t, c.frame.parts)
    return looks.length === 1 && !looks[0].draw.solid && looks[0].draw.inside === 'normal' && looks[0].draw.onto === 'normal'
  }
  open(c: DrawContext): ReturnType<Sliced['open']> {
    const ready = this.ready(c)
    if (!ready || !this.drawn) return null
    if (!this.sort(c, ready.matrices[0]) || !this.set(c, ready.looks[0].draw, ready.looks[0].mask, { hides: true })) return null
    const u = this.material.uniforms
    u.backwards.value = 1
    for (const m of this.copies) setUnder(m.material as THREE.Material)
    this.next = 0
    return { count: this.drawn, depthAt: (nth) => this.depthAt(nth) }
  }
  before(c: DrawContext, depth: number, target: THREE.WebGLRenderTarget, covered: THREE.Texture | null): void {
    const from = this.next
    while (this.next < this.drawn && this.depthAt(this.next) < depth) this.next++
    if (this.next === from) return
    const u = this.material.uniforms
    u.hides.value = covered ? 1 : 0
    u.covered.value = covered ?? u.look.value
    this.range(from, this.next)
    c.renderer.setRenderTarget(target)
    c.renderer.render(this.scene, c.camera)
  }
  /** How many tufts `leave` would leave; null: what is drawn of it is something else. */
  tuftCount(c: DrawContext): number | null {
    const ready = this.ready(c)
    if (!ready) return 0
    return ready.looks.every((l) => l.draw.tuft) ? this.drawn * this.copies.length : null
  }
  /** Leaves its tufts in the targets of TUFT_RECORD, from a place on, each a pixel, and gives their light; null when there is nothing to see yet. */
  leave(c: DrawContext, target: THREE.WebGLRenderTarget, first: number): LightCells | null {
    const ready = this.ready(c)
    if (!ready?.looks.length || !this.set(c, ready.looks[0].draw, ready.looks[0].mask, { record: true })) return null
    const u = this.material.uniforms
    u.ordered.value = 0
    u.order.value = this.data.texture
    u.across.value = target.width
    this.copies.forEach((copy, k) => {
      const from = first + k * this.drawn
      const [low, high] = [Math.floor(from / target.width), Math.ceil((from + this.drawn) / target.width)]
      target.scissor.set(0, low, target.width, high - low)
      target.scissorTest = true
      u.first.value = from
      this.slices.matrix.copy(copy.matrix)
      this.slices.matrixWorldNeedsUpdate = true
      this.sliced.uniformsNeedUpdate = true
      c.renderer.setRenderTarget(target)
      c.renderer.render(this.slices, c.camera)
    })
    return c.tufts(this.system)?.cells ?? null
  }
  /** Of those from the nearest on the first that is not drawn yet. */
  private next = 0
  /** View depth of one of those from the nearest on. */
  private depthAt(nth: number): number {
    return this.depth[this.order.words[this.drawn - 1 - nth]]
  }
  private range(from: number, to: number): void {
    this.geometry.setDrawRange(from * 3, (to - from) * 3)
  }
  /** Brings what has changed to the graphics side; null when there is nothing to draw. */
  private ready(c: DrawContext) {
    const { shot, part } = { shot: c.shot, part: this.part }
    const system = shot.systems.find((s) => s.id === this.system)
    if (!system || system.muted || !part) return null
    const looks = looksOf(shot, system, c.t, c.frame.parts)
    const reliefs = reliefsOf(drawsByPhase(looks, system.phases.length))
    const places = reliefs.some((r) => r.length) ? drawnPlaces(part, reliefs) : null
    const asked = askedIn(part, looks)
    if (c.share !== this.share || places !== this.places || !sameAsked(asked, this.asked)) {
      this.share = c.share
      this.upload(part, places, asked)
    }
    const matrices = systemMatrices(shot, system, c.t, c.meshes, c.frame.parts)
    this.place(matrices)
    system.phases.forEach((p, k) => (this.material.uniforms.perBlend.value[k] = p.blend > 0 ? 1 / p.blend : 0))
    const mask = (phases: readonly number[]) => (phases.length === system.phases.length ? ALL_PHASES : maskOf(phases))
    return { matrices, looks: looks.map(({ draw, phases }) => ({ draw, mask: mask(phases) })) }
  }
  /** One mesh a copy, over the same particles. */
  private place(matrices: readonly Matrix[]): void {
    while (this.copies.length > matrices.length) this.scene.remove(this.copies.pop() as THREE.Mesh)
    matrices.forEach((a, i) => {
      let m = this.copies[i]
      if (!m) {
        m = new THREE.Mesh(this.geometry, this.material)
        m.frustumCulled = false
        m.matrixAutoUpdate = false
        this.copies.push(m)
        this.scene.add(m)
      }
      m.matrix.set(a[0], a[1], a[2], a[3], a[4], a[5], a[6], a[7], a[8], a[9], a[10], a[11], 0, 0, 0, 1)
      m.matrixWorldNeedsUpdate = true
    })
  }
  /** Farthest first, for particles that hide each other; false without kernels, a moment after opening. The same picture again needs no other order. */
  private sort(c: DrawContext, matrix: Matrix): boolean {
    const { part } = this
    if (!part || !c.asker) return false
    const ahead = c.camera.getWorldDirection(new THREE.Vector3()).toArray()
    const [place, forward] = inSpace(matrix, c.camera.position.toArray(), ahead)
    const old = this.sortedFor
    if (old && sameVector(old.place, place) && sameVector(old.forward, forward)) return true
    const n = this.drawn
    const words = this.data.reserve(n * (drawnColumns(part).length + this.asked.size))
    const column = (k: number) => new Float32Array(words.buffer, words.byteOffset + k * n * 4, n)
    const { order, depth } = c.asker.order({ x: column(0), y: column(1), z: column(2) }, place, forward)
    if (this.depth.length < n) this.depth = new Float32Array(Math.ceil(n * 1.25))
    this.depth.set(depth)
    this.order.reserve(n).set(order)
    this.order.changed()
    this.sortedFor = { place, forward }
    return true
  }
  /** Writes what the shaders read; false when there is nothing to see yet. `hides`: what is covered already may be left out; `record`: for `leave`. */
  private set(c: DrawContext, draw: Draw, phases: number, { hides = false, record = false } = {}): boolean {
    const u = this.material.uniforms
    const sheet = draw.sprite && c.sprite(draw.sprite)
    if (draw.sprite && !sheet) return false
    // Without kernels, a moment after opening, there is no light for tufts.
    if (draw.tuft && !c.tufts(this.system)?.into(u, c, draw.tuft, !record)) return false
    const ordered = draw.inside === 'normal'
    u.pixels.value.set(c.width, c.height)
    u.near.value = c.near
    u.shutter.value.set(...c.shutter)
    u.lensOpen.value.set(...c.lens)
    u.light.value.copy(c.light)
    for (const name of ['dashS', 'size', 'sizeVary', 'sizeSeed', 'taper', 'brightness', 'opacity', 'softness'] as const)
      u[name].value = draw[name]
    u.look.value = this.lookTexture(draw)
    u.data.value = this.data.texture
    u.order.value = ordered ? this.order.texture : this.data.texture
    u.ordered.value = ordered ? 1 : 0
    u.backwards.value = u.hides.value = 0
    u.covered.value = u.look.value
    u.count.value = this.drawn
    u.phases.value = phases
    u.covers.value = coversBy(draw.inside) ? 1 : 0
    u.brightest.value = brightestOf(draw.inside)
    const at = (name: 'qx' | 'size' | 'phaseStart' | 'phaseFrom' | 'tint') => (this.part ? columnAt(this.part, name) : 0)
    const f = at('qx') ? draw.flake : null
    u.quaternions.value = at('qx')
    u.sizes.value = at('size')
    u.starts.value = at('phaseStart')
    u.befores.value = at('phaseFrom')
    u.tints.value = at('tint')
    u.flakes.value = f ? 1 : 0
    if (f) u.flake.value.set(f.length, f.round, f.shade, f.back)
    u.glint.value = f?.glint ?? 0
    const own = this.part ? drawnColumns(this.part).length : 0
    const names = [...this.asked.keys()]
    this.mappings.into(u, draw.mappings, (ask) => (names.includes(ask) ? own + names.indexOf(ask) : 0))
    c.front.into(u)
    const material = draw.tuft ? this.tufts : draw.sprite ? this.sprites : draw.meets > 0 ? this.meeting : this.material
    if (draw.sprite && sheet) Sprites.into(u, c, draw.sprite, sheet)
    if (material === this.meeting) {
      u.meets.value = draw.meets
      u.sceneDepth.value = c.depth
      u.nearFar.value.set(c.camera.near, c.camera.far)
    }
    const without = { NO_MAPS: !draw.mappings.length, NO_FLAKES: !f, NO_HIDING: !hides, ...c.front.without }
    leaveOut(record ? this.sliced : material, without)
    for (const m of this.copies) m.material = material
    setBlending(material, draw.inside, draw.inside === 'multiply' && draw.onto !== 'multiply')
    return true
  }
  /** Colours and opacity over life in one row, the size in the other. Of each phase the look drawn last is kept. */
  private lookTexture({ look }: Draw): THREE.DataTexture {
    const known = this.looks.get(look)
    if (known) return known
    if (this.looks.size >= MAX_LOOKS) {
      for (const t of this.looks.values()) t.dispose()
      this.looks.clear()
    }
    const table = lookTable(look)
    const half = new Uint16Array(LOOK_SAMPLES * 4 * 2)
    for (let i = 0; i < LOOK_SAMPLES; i++) {
      for (let k = 0; k < 4; k++) half[i * 4 + k] = THREE.DataUtils.toHalfFloat(table[i * 5 + k])
      half[(LOOK_SAMPLES + i) * 4] = THREE.DataUtils.toHalfFloat(table[i * 5 + 4])
    }
    const texture = new THREE.DataTexture(half, LOOK_SAMPLES, 2, THREE.RGBAFormat, THREE.HalfFloatType)
    texture.magFilter = THREE.LinearFilter
    texture.minFilter = THREE.LinearFilter
    texture.needsUpdate = true
    this.looks.set(look, texture)
    return texture
  }
  dispose(): void {
    this.geometry.dispose()
    this.material.dispose()
    this.tufts.dispose()
    this.sliced.dispose()
    this.meeting.dispose()
    this.sprites.dispose()
    for (const t of this.looks.values()) t.dispose()
    this.looks.clear()
    this.data.dispose()
    this.order.dispose()
    this.mappings.dispose()
  }
}
/** Textures of looks that are kept: an edited ramp makes another at every step of the drag. */
const MAX_LOOKS = 8
