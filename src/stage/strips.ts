import * as THREE from 'three'
import { type StripDraw, stripDraw, stripOwner } from '../acts'
import type { StripsPart } from '../engine'
import { setBlending, setUnder } from './blending'
import type { DrawContext, Drawer } from './drawer'
import { leaveOut } from './leaveOut'
import { HEAD_VERTEX_WORDS, STRIP_VERTEX_WORDS, StripMesh, type StripView } from './stripMesh'
import { HEAD_FRAGMENT, HEAD_VERTEX, STRIP_FRAGMENT, STRIP_VERTEX } from './stripShaders'
import type { Sliced } from './together'
import { nearestFirst } from './triangleOrder'

/** Attributes of a vertex: name, words. */
type Form = readonly (readonly [string, number])[]
const STRIP_FORM: Form = [
  ['place', 3],
  ['band', 4],
  ['more', 2],
  ['tint', 4],
]
const HEAD_FORM: Form = [
  ['place', 3],
  ['band', 3],
  ['tint', 4],
]
/** Triangles that are written anew for each picture. */
class Triangles {
  readonly mesh: THREE.Mesh<THREE.BufferGeometry, THREE.RawShaderMaterial>
  private vertices: THREE.InterleavedBuffer | null = null

  constructor(
    private form: Form,
    private stride: number,
    vertexShader: string,
    fragmentShader: string,
    uniforms: Record<string, unknown>,
  ) {
    const material = new THREE.RawShaderMaterial({
      ...{ glslVersion: THREE.GLSL3, vertexShader, fragmentShader, depthWrite: false, side: THREE.DoubleSide },
      uniforms: Object.fromEntries(Object.entries(uniforms).map(([k, value]) => [k, { value }])),
    })
    this.mesh = new THREE.Mesh(new THREE.BufferGeometry(), material)
    this.mesh.frustumCulled = false
  }
  set(vertices: { data: Float32Array; length: number }, indices: { data: Uint32Array; length: number }): void {
    const g = this.mesh.geometry
    if (!this.vertices || this.vertices.array !== vertices.data || g.index?.array !== indices.data) {
      // The lists grew: other buffers on the graphics side.
      g.dispose()
      this.vertices = new THREE.InterleavedBuffer(vertices.data, this.stride)
      this.vertices.setUsage(THREE.DynamicDrawUsage)
      let at = 0
      for (const [name, words] of this.form) {
        g.setAttribute(name, new THREE.InterleavedBufferAttribute(this.vertices, words, at))
        at += words
      }
      g.setIndex(new THREE.BufferAttribute(indices.data, 1).setUsage(THREE.DynamicDrawUsage))
    }
    for (const [buffer, length] of [
      [this.vertices, vertices.length],
      [g.index as THREE.BufferAttribute, indices.length],
    ] as const) {
      buffer.clearUpdateRanges()
      buffer.addUpdateRange(0, length)
      buffer.needsUpdate = true
    }
    g.setDrawRange(0, indices.length)
    this.mesh.visible = indices.length > 0
  }
  /** Draws of the triangles only some. */
  range(from: number, to: number): void {
    this.mesh.geometry.setDrawRange(from * 3, (to - from) * 3)
  }
  get uniforms() {
    return this.mesh.material.uniforms
  }
  dispose(): void {
    this.mesh.geometry.dispose()
    this.mesh.material.dispose()
  }
}
type Owner = ReturnType<typeof stripOwner>
const TURNED = new THREE.Matrix4()

/** The strips of one act. */
export class StripsDrawer implements Drawer<StripsPart>, Sliced {
  private scene = new THREE.Scene()
  private lines = new StripMesh()
  private strips = new Triangles(STRIP_FORM, STRIP_VERTEX_WORDS, STRIP_VERTEX, STRIP_FRAGMENT, {
    ...{
      softness: 0.5,
      tube: 0,
      pattern: new THREE.Vector4(),
      nearFar: new THREE.Vector2(),
      front: null,
      frontDepths: null,
      fogFront: null,
      fogDepths: null,
    },
  })
  private heads = new Triangles(HEAD_FORM, HEAD_VERTEX_WORDS, HEAD_VERTEX, HEAD_FRAGMENT, {
    ...{ rays: 0, nearFar: new THREE.Vector2(), front: null, frontDepths: null, fogFront: null, fogDepths: null },
  })
  private part: StripsPart | null = null
  /** What the triangles were made of. */
  private made = ''
  private madeOf: StripsPart | null = null

  constructor(private element: string) {
    this.scene.add(this.strips.mesh, this.heads.mesh)
  }
  load(part: StripsPart): void {
    this.part = part
  }
  draw(c: DrawContext): void {
    if (!this.ready(c, false)) return
    this.strips.range(0, this.lines.indices.length / 3)
    this.heads.mesh.visible = this.lines.headIndices.length > 0
    this.render(c, c.target)
  }
  /** Whether they can be drawn with others that hide them and are hidden by them. */
  joins(c: DrawContext): boolean {
    const found = this.part?.strips ? this.found(c) : null
    return found?.draw.blend === 'normal' && found.draw.as !== 'solid'
  }
  /** Strips by their triangles: within a pixel they need no other order. */
  open(c: DrawContext): ReturnType<Sliced['open']> {
    if (!this.ready(c, true) || !this.depths.length) return null
    setUnder(this.strips.mesh.material)
    this.next = 0
    return { count: this.depths.length, depthAt: (nth) => this.depths[nth] }
  }
  before(c: DrawContext, depth: number, target: THREE.WebGLRenderTarget): void {
    const from = this.next
    while (this.next < this.depths.length && this.depths[this.next] < depth) this.next++
    if (this.next === from) return
    this.strips.range(from, this.next)
    this.heads.mesh.visible = false
    this.render(c, target)
  }
  /** The heads of strips that were drawn with others: they give light, and come last. */
  drawHeads(c: DrawContext): void {
    const [strips, heads] = [this.strips.mesh, this.heads.mesh]
    strips.visible = false
    heads.visible = this.lines.headIndices.length > 0
    if (heads.visible) this.render(c, c.target)
    strips.visible = this.depths.length > 0
  }
  /** Of the triangles from the nearest on: how far each is, m, and the first that is not drawn yet. */
  private depths: Float32Array = new Float32Array(0)
  private next = 0
  private render(c: DrawContext, target: THREE.WebGLRenderTarget): void {
    c.renderer.setRenderTarget(target)
    c.renderer.render(this.scene, c.camera)
  }
  private found(c: DrawContext) {
    const { part } = this
    const owner = part && stripOwner(c.shot, this.element, c.t, c.meshes, c.frame.parts)
    const draw = owner && stripDraw(c.shot, owner.owner, part.act, c.t)
    return draw ? { part, draw, owner } : null
  }
  /** Brings what has changed to the graphics side. `sliced`: from the nearest on. */
  private ready(c: DrawContext, sliced: boolean): boolean {
    const found = this.found(c)
    if (!found) return false
    const { part, draw, owner } = found
    this.build(c, part, draw, owner, sliced)
    const u = this.strips.uniforms
    u.softness.value = draw.as === 'line' ? draw.softness : 0
    u.tube.value = draw.as === 'tube' ? 1 : 0
    const { pattern } = draw
    if (pattern) u.pattern.value.set(Math.max(1e-6, pattern.period), pattern.filled, pattern.shift, pattern.soft ? 1 : 0)
    else u.pattern.value.set(0, 0, 0, 0)
    this.heads.uniforms.rays.value = draw.head?.rays ?? 0
    for (const x of [this.strips, this.heads]) {
      x.uniforms.nearFar.value.set(c.camera.near, c.camera.far)
      c.front.into(x.uniforms)
    }
    leaveOut(this.strips.mesh.material, { NO_PATTERN: !pattern, NO_TUBE: draw.as !== 'tube', ...c.front.without })
    leaveOut(this.heads.mesh.material, { NO_RAYS: !draw.head?.rays, ...c.front.without })
    setBlending(this.strips.mesh.material, draw.blend)
    setBlending(this.heads.mesh.material, 'add')
    return true
  }
  /** Made again only where the frame, the look or the camera is another one. */
  private build(
    c: DrawContext,
    part: StripsPart,
    draw: StripDraw,
    { looks, matrices }: Pick<NonNullable<Owner>, 'looks' | 'matrices'>,
    sliced: boolean,
  ): void {
    const { camera } = c
    const key = JSON.stringify([
      draw,
      looks,
      matrices,
      camera.matrixWorld.elements,
      camera.projectionMatrix.elements,
      c.width,
      c.height,
      c.share,
      c.near,
      c.light,
      sliced,
    ])
    if (this.madeOf === part && this.made === key) return
    this.madeOf = part
    this.made = key
    const { lines } = this
    lines.clear()
    for (const m of matrices) {
      const placed = TURNED.set(m[0], m[1], m[2], m[3], m[4], m[5], m[6], m[7], m[8], m[9], m[10], m[11], 0, 0, 0, 1)
      const view = new THREE.Matrix4().multiplyMatrices(camera.matrixWorldInverse, placed)
      const clip = new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, view)
      const v: StripView = {
        ...{ clip: clip.transpose().elements, view: view.transpose().elements, width: c.width, height: c.height },
        ...{ zoom: camera.projectionMatrix.elements[5], near: c.near, share: c.share },
        light: c.light.toArray() as [number, number, number, number],
      }
      lines.add(part, draw, looks, v)
    }
    const [a, b] = [camera.projectionMatrix.elements[10], camera.projectionMatrix.elements[14]]
    if (sliced) {
      const z = (vertex: number) => lines.vertices.data[vertex * STRIP_VERTEX_WORDS + 2]
      this.depths = nearestFirst(lines.indices.data.subarray(0, lines.indices.length), z, (d) => b / (d + a))
    }
    this.strips.set(lines.vertices, lines.indices)
    this.heads.set(lines.heads, lines.headIndices)
  }
  dispose(): void {
    this.strips.dispose()
    this.heads.dispose()
  }
}
