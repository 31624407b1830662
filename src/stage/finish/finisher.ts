import * as THREE from 'three'
import type { FinishPass, FinishValue } from '../../acts'
import { Pass } from '../passes'
import { Recent } from '../recent'
import { lightTarget } from '../targets'
import { areaShader, nameOf, pointShader } from './shader'

/** What the steps of a picture end in: screen values, or light again. */
export interface Ending {
  uniforms: string
  uses: readonly string[]
  main: string
  values: Record<string, unknown>
}
const LIGHT: Ending = { uniforms: '', uses: [], main: '  colour = c;', values: {} }
/** Shaders that are kept; those that were used longest ago go. */
const MOST_SHADERS = 64
/** Sizes of picture that targets are kept for: a preview, the sharp picture, and one more. */
const KEPT_SIZES = 3
const uniformOf = (v: FinishValue): unknown =>
  typeof v === 'number'
    ? v
    : v.length === 2
      ? new THREE.Vector2(v[0], v[1])
      : v.length === 3
        ? new THREE.Vector3(v[0], v[1], v[2])
        : v.length === 4
          ? new THREE.Vector4(v[0], v[1], v[2], v[3])
          : [...v]

/** A step that waits to be run with others, and the pictures that it reads. */
interface Waiting {
  pass: FinishPass
  reads: Record<string, THREE.Texture>
}
/**
 * Runs the steps of finishes over a picture. Steps that look at one pixel alone wait until something wants the picture as a whole, and are then
 * run in one pass; the last of them with what makes screen values.
 */
export class Finisher {
  private shaders = new Map<string, Pass>()
  /** Of each size of picture the targets of each size that its steps asked for. */
  private pool = new Recent<Map<string, THREE.WebGLRenderTarget[]>>(KEPT_SIZES, (sizes) => {
    for (const list of sizes.values()) for (const t of list) t.dispose()
  })
  private taken = new Set<THREE.WebGLRenderTarget>()
  private picture!: THREE.Texture
  private own: THREE.WebGLRenderTarget | null = null
  private waiting: Waiting[] = []
  private size: [number, number] = [1, 1]
  private transparent = 0

  /** Begins with a picture. */
  begin(picture: THREE.Texture, width: number, height: number, transparent: boolean): void {
    this.picture = picture
    this.size = [width, height]
    this.transparent = transparent ? 1 : 0
    this.waiting = []
  }
  /** `others`: pictures that its steps may read beside their own, by name. */
  add(r: THREE.WebGLRenderer, passes: readonly FinishPass[], others: Readonly<Record<string, THREE.Texture>> = {}): void {
    const made = new Map<string, THREE.Texture>(Object.entries(others))
    const find = (p: FinishPass) =>
      Object.fromEntries(
        Object.entries(p.reads ?? {}).map(([name, of]) => {
          const texture = of === 'picture' ? this.picture : made.get(of)
          if (!texture) throw new Error(`a finish reads ${of}, which nothing has made`)
          return [name, texture]
        }),
      )
    const lastRead = new Map<string, number>()
    // What waits is read at a time that is not known yet.
    for (const [i, p] of passes.entries())
      for (const of of Object.values(p.reads ?? {})) lastRead.set(of, p.point ? Number.POSITIVE_INFINITY : i)
    const results = new Map<string, THREE.WebGLRenderTarget>()
    for (const [i, p] of passes.entries()) {
      if (p.point) {
        this.waiting.push({ pass: p, reads: find(p) })
        continue
      }
      if (!p.to || /\bpicture\b/.test(p.glsl) || Object.values(p.reads ?? {}).includes('picture')) this.flush(r)
      const target = this.take(p.scale ?? 1)
      this.shader(areaShader(p), { ...p.values, ...find(p) }).run(r, target)
      if (p.to) {
        made.set(p.to, target.texture)
        results.set(p.to, target)
      } else this.become(target)
      for (const [name, t] of results) {
        if ((lastRead.get(name) ?? -1) > i || name === p.to) continue
        this.taken.delete(t)
        results.delete(name)
      }
    }
  }
  /** The picture as it is now. */
  light(r: THREE.WebGLRenderer): THREE.Texture {
    this.flush(r)
    return this.picture
  }
  /** Ends with the last pass, into a target or the canvas; all pictures in between are free again. */
  end(r: THREE.WebGLRenderer, ending: Ending | null, to: THREE.WebGLRenderTarget | null): void {
    this.run(r, ending ?? LIGHT, to)
    this.taken.clear()
    this.own = null
    this.waiting = []
  }
  private flush(r: THREE.WebGLRenderer): void {
    if (!this.waiting.length) return
    const target = this.take(1)
    this.run(r, LIGHT, target)
    this.waiting = []
    this.become(target)
  }
  private become(target: THREE.WebGLRenderTarget): void {
    // Whatever was read of the picture before has been drawn.
    if (this.own && !this.waiting.length) this.taken.delete(this.own)
    this.own = target
    this.picture = target.texture
  }
  private run(r: THREE.WebGLRenderer, ending: Ending, to: THREE.WebGLRenderTarget | null): void {
    const values = this.waiting.flatMap(({ pass, reads }, i) =>
      Object.entries({ ...pass.values, ...reads }).map(([k, v]) => [nameOf(i, k), v] as const),
    )
    const glsl = pointShader(
      this.waiting.map((w) => w.pass),
      ending,
    )
    this.shader(glsl, { ...Object.fromEntries(values), ...ending.values } as Record<string, FinishValue | THREE.Texture>).run(r, to)
  }
  private shader(glsl: string, values: Readonly<Record<string, FinishValue | THREE.Texture | unknown>>): Pass {
    let pass = this.shaders.get(glsl)
    this.shaders.delete(glsl)
    const all: Record<string, unknown> = { picture: this.picture, aspect: this.size[0] / this.size[1], transparent: this.transparent }
    for (const [k, v] of Object.entries(values)) all[k] = typeof v === 'number' || Array.isArray(v) ? uniformOf(v as FinishValue) : v
    pass ??= new Pass(glsl, all)
    this.shaders.set(glsl, pass)
    for (const [old, p] of this.shaders) {
      if (this.shaders.size <= MOST_SHADERS) break
      this.shaders.delete(old)
      p.dispose()
    }
    return pass.set(all)
  }
  private take(scale: number): THREE.WebGLRenderTarget {
    const [w, h] = this.size.map((n) => Math.max(2, Math.round(n * scale)))
    const sizes = this.pool.of(`${this.size}`, () => new Map())
    const list = sizes.get(`${w}x${h}`) ?? []
    sizes.set(`${w}x${h}`, list)
    let free = list.find((t) => !this.taken.has(t))
    if (!free) list.push((free = lightTarget(w, h)))
    this.taken.add(free)
    return free
  }
  dispose(): void {
    this.pool.dispose()
    for (const p of this.shaders.values()) p.dispose()
    this.shaders.clear()
    this.taken.clear()
  }
}
