import * as THREE from 'three'
import { type Draw, LOOK_SAMPLES, lookTable } from '../acts'
import { ALL_POINT_COLUMNS, hash3, type Matrix, type PointsPart, pointColumn, unit } from '../engine'
import { PARTICLE_FRAGMENT, PARTICLE_VERTEX } from './shaders'

/** The first columns of a part are the ones drawn: place, velocity, age, life, seed. shaders.ts reads them by these numbers. */
const DRAWN_COLUMNS = 9
const ROW = 4096

function blending(material: THREE.RawShaderMaterial, mode: 'add' | 'normal'): void {
  material.blending = THREE.CustomBlending
  material.blendEquation = THREE.AddEquation
  material.blendSrc = THREE.OneFactor
  material.blendSrcAlpha = THREE.OneFactor
  // Light leaves coverage as it is: its own alpha is zero.
  material.blendDst = mode === 'add' ? THREE.OneFactor : THREE.OneMinusSrcAlphaFactor
  material.blendDstAlpha = mode === 'add' ? THREE.OneFactor : THREE.OneMinusSrcAlphaFactor
}

/** The particles of one system on the GPU. */
export class PointsView {
  readonly scene = new THREE.Scene()
  private geometry = new THREE.BufferGeometry()
  private material: THREE.RawShaderMaterial
  private meshes: THREE.Mesh[] = []
  private texture: THREE.DataTexture | null = null
  private data: THREE.DataTexture | null = null
  private look: object | null = null
  private capacity = 0
  private part: PointsPart | null = null
  private order: Uint32Array | null = null
  private share = 1
  /** Columns of the part on the GPU. */
  private columns = DRAWN_COLUMNS
  private drawn = 0
  draw: Draw | null = null

  constructor() {
    this.material = new THREE.RawShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: PARTICLE_VERTEX,
      fragmentShader: PARTICLE_FRAGMENT,
      depthWrite: false,
      // Flakes show their back too.
      side: THREE.DoubleSide,
      uniforms: Object.fromEntries(
        Object.entries({
          pixels: new THREE.Vector2(),
          dashS: 0,
          near: 0,
          size: 0,
          sizeVary: 0,
          sizeSeed: 0,
          taper: 0,
          brightness: 1,
          opacity: 1,
          look: null,
          covers: 0,
          softness: 0.5,
          flake: new THREE.Vector4(),
          glint: 0,
          flakes: 0,
          light: new THREE.Vector4(),
          data: null,
          count: 0,
        }).map(([k, value]) => [k, { value }]),
      ),
    })
  }
  private reserve(count: number): void {
    const words = count * this.columns
    if (this.data && words <= this.capacity) return
    this.capacity = Math.ceil(words * 1.3) + 1024 * DRAWN_COLUMNS
    this.data?.dispose()
    const rows = Math.ceil(this.capacity / ROW)
    this.data = new THREE.DataTexture(new Uint32Array(rows * ROW), ROW, rows, THREE.RedIntegerFormat, THREE.UnsignedIntType)
    this.data.internalFormat = 'R32UI'
  }
  /** One mesh a copy, over the same particles. */
  private stand(matrices: readonly Matrix[]): void {
    while (this.meshes.length > matrices.length) this.scene.remove(this.meshes.pop() as THREE.Mesh)
    matrices.forEach((a, i) => {
      let m = this.meshes[i]
      if (!m) {
        m = new THREE.Mesh(this.geometry, this.material)
        m.frustumCulled = false
        m.matrixAutoUpdate = false
        this.meshes.push(m)
        this.scene.add(m)
      }
      m.matrix.set(a[0], a[1], a[2], a[3], a[4], a[5], a[6], a[7], a[8], a[9], a[10], a[11], 0, 0, 0, 1)
      m.matrixWorldNeedsUpdate = true
    })
  }
  /** Takes a frame's particles; the order of drawing stays as simulated until `sort`. */
  load(part: PointsPart): void {
    if (part === this.part) return
    this.part = part
    this.order = null
    this.fill()
  }
  private fill(): void {
    const part = this.part
    if (!part) return
    const n = part.count
    this.columns = part.turned ? ALL_POINT_COLUMNS.length : DRAWN_COLUMNS
    const source = new Uint32Array(part.data, 0, n * this.columns)
    // Thinning happens here, by hash, so that what is not shown costs nothing; the same particles stay from frame to frame.
    let chosen = this.order
    if (this.share < 1) {
      const seeds = source.subarray(8 * n, 9 * n)
      const kept = new Uint32Array(n)
      let k = 0
      for (let i = 0; i < n; i++) {
        const at = this.order ? this.order[i] : i
        if (unit(hash3(0, seeds[at], 21)) < this.share) kept[k++] = at
      }
      chosen = kept.subarray(0, k)
    }
    const m = chosen ? chosen.length : n
    this.drawn = m
    this.reserve(m)
    const words = this.data?.image.data as unknown as Uint32Array
    if (chosen) {
      for (let c = 0; c < this.columns; c++) for (let i = 0, o = c * m, q = c * n; i < m; i++) words[o + i] = source[q + chosen[i]]
    } else words.set(source)
    if (this.data) this.data.needsUpdate = true
    this.geometry.setDrawRange(0, m * 3)
  }
  /** Farthest first along a view direction, for particles that hide each other: two passes of a radix sort on 16-bit depths. */
  sort(from: THREE.Vector3, forward: THREE.Vector3): void {
    const part = this.part
    if (!part || part.count < 2) return
    const n = part.count
    const x = pointColumn(part, 'px'),
      y = pointColumn(part, 'py'),
      z = pointColumn(part, 'pz')
    const depth = new Float32Array(n)
    let lo = Infinity
    let hi = -Infinity
    for (let i = 0; i < n; i++) {
      const d = (x[i] - from.x) * forward.x + (y[i] - from.y) * forward.y + (z[i] - from.z) * forward.z
      depth[i] = d
      if (d < lo) lo = d
      if (d > hi) hi = d
    }
    const scale = hi > lo ? 65535 / (hi - lo) : 0
    const keys = new Uint16Array(n)
    for (let i = 0; i < n; i++) keys[i] = 65535 - (depth[i] - lo) * scale
    let from_ = Uint32Array.from({ length: n }, (_, i) => i)
    let to = new Uint32Array(n)
    for (const shift of [0, 8]) {
      const start = new Uint32Array(257)
      for (let i = 0; i < n; i++) start[((keys[i] >> shift) & 255) + 1]++
      for (let k = 0; k < 256; k++) start[k + 1] += start[k]
      for (let i = 0; i < n; i++) to[start[(keys[from_[i]] >> shift) & 255]++] = from_[i]
      ;[from_, to] = [to, from_]
    }
    this.order = from_
    this.fill()
  }
  prepare(
    draw: Draw,
    width: number,
    height: number,
    share: number,
    onto: 'add' | 'normal',
    near: number,
    matrices: readonly Matrix[],
    light: THREE.Vector4,
  ): void {
    this.stand(matrices)
    this.draw = draw
    if (share !== this.share) {
      this.share = share
      this.fill()
    }
    if (this.look !== draw.look) {
      this.look = draw.look
      this.texture?.dispose()
      const table = lookTable(draw.look)
      const data = new Float32Array(LOOK_SAMPLES * 4 * 2)
      for (let i = 0; i < LOOK_SAMPLES; i++) {
        data.set(table.subarray(i * 5, i * 5 + 4), i * 4)
        data[(LOOK_SAMPLES + i) * 4] = table[i * 5 + 4]
      }
      const half = new Uint16Array(data.length)
      for (let i = 0; i < data.length; i++) half[i] = THREE.DataUtils.toHalfFloat(data[i])
      this.texture = new THREE.DataTexture(half, LOOK_SAMPLES, 2, THREE.RGBAFormat, THREE.HalfFloatType)
      this.texture.magFilter = THREE.LinearFilter
      this.texture.minFilter = THREE.LinearFilter
      this.texture.needsUpdate = true
    }
    const u = this.material.uniforms
    u.pixels.value.set(width, height)
    u.dashS.value = draw.dashS
    u.near.value = near
    u.size.value = draw.size
    u.sizeVary.value = draw.sizeVary
    u.sizeSeed.value = draw.sizeSeed
    u.taper.value = draw.taper
    u.brightness.value = draw.brightness
    u.opacity.value = draw.opacity
    u.softness.value = draw.softness
    u.look.value = this.texture
    u.data.value = this.data
    u.count.value = this.drawn
    u.covers.value = draw.inside === 'normal' ? 1 : 0
    const f = this.part?.turned ? draw.flake : null
    u.flakes.value = f ? 1 : 0
    if (f) u.flake.value.set(f.length, f.round, f.shade, f.back)
    u.glint.value = f?.glint ?? 0
    u.light.value.copy(light)
    blending(this.material, onto)
  }
  dispose(): void {
    this.geometry.dispose()
    this.material.dispose()
    this.texture?.dispose()
    this.data?.dispose()
  }
}
