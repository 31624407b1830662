import * as THREE from 'three'
import { type Meshes, othersIn, regionOf, type Shaped } from '../acts'
import { boundsOf, type Mesh } from '../engine'
import type { Shot } from '../shot'
import { NO_KEY, NO_KEY_MAIN } from './keyLight'

const MIST = new THREE.Color(0.82, 0.83, 0.76)
const line = new THREE.LineBasicMaterial({ color: MIST })
line.userData.keysApart = true
line.onBeforeCompile = (shader) => {
  shader.fragmentShader =
    NO_KEY + shader.fragmentShader.replace('#include <opaque_fragment>', `${NO_KEY_MAIN}\n\t#include <opaque_fragment>`)
}
/** The box of a mesh, in its own space, as lines. */
export function boxLines(mesh: Mesh): THREE.LineSegments {
  const { min, max } = boundsOf(mesh)
  const box = new THREE.BoxGeometry(...(max.map((v, i) => Math.max(1e-6, v - min[i])) as [number, number, number]))
  box.translate(...(max.map((v, i) => (v + min[i]) / 2) as [number, number, number]))
  const lines = new THREE.LineSegments(new THREE.EdgesGeometry(box), line)
  box.dispose()
  lines.matrixAutoUpdate = false
  return lines
}
/** Fine slanting strokes, as dense as the amount: a drawing over the surface that hides little of it. */
const hatch = () =>
  new THREE.ShaderMaterial({
    transparent: true,
    depthWrite: false,
    polygonOffset: true,
    polygonOffsetFactor: -2,
    polygonOffsetUnits: -2,
    side: THREE.DoubleSide,
    uniforms: { step: { value: 6 } },
    vertexShader:
      'attribute float amount; varying float vAmount; void main() { vAmount = amount; gl_Position = projectionMatrix * modelViewMatrix * vec4(position, 1.0); }',
    fragmentShader: `
      varying float vAmount; uniform float step;
      void main() {
        if (vAmount <= 0.004) discard;
        float s = abs(fract((gl_FragCoord.x + gl_FragCoord.y) / step) - 0.5) * 2.0;
        float stroke = smoothstep(1.0 - vAmount * 0.62, 1.0 - vAmount * 0.62 + 0.22, s);
        gl_FragColor = vec4(vec3(0.82, 0.84, 0.74), 0.12 * vAmount + 0.7 * stroke * sqrt(vAmount));
      }`,
  })
/** The pieces of a line, over the same places as its geometry. */
export function edgeLines(g: THREE.BufferGeometry): THREE.LineSegments {
  const all = g.getIndex()
  const pairs: number[] = []
  for (let i = 0; all && i < all.count; i += 3) pairs.push(all.getX(i), all.getX(i + 1))
  const own = new THREE.BufferGeometry()
  own.setAttribute('position', g.getAttribute('position'))
  own.setIndex(pairs)
  const lines = new THREE.LineSegments(own, line)
  lines.matrixAutoUpdate = false
  lines.frustumCulled = false
  return lines
}
interface Shown {
  mesh: THREE.Mesh
  shaped: Shaped
}
/** A region of one object as the View draws it over the object. */
export class RegionView {
  private object: string | null = null
  private id: string | null = null
  private drawn: THREE.Mesh<THREE.BufferGeometry, THREE.ShaderMaterial> | null = null
  private of: Shaped | null = null
  private amounts: ((t: number) => Float32Array) | null = null
  private doc: unknown = null

  get isShown(): boolean {
    return this.id !== null
  }
  choose(object: string | null, region: string | null): void {
    if (object === this.object && region === this.id) return
    this.object = object
    this.id = region
    this.clear()
  }
  private clear(): void {
    this.drawn?.parent?.remove(this.drawn)
    this.drawn?.geometry.dispose()
    this.drawn?.material.dispose()
    this.drawn = this.of = this.amounts = this.doc = null
  }
  place(scene: THREE.Scene, editing: boolean, shot: Shot, assets: Meshes, t: number, shownOf: (id: string) => Shown | null): void {
    const object = shot.objects.find((o) => o.id === this.object)
    const region = object?.regions.find((r) => r.id === this.id)
    const shown = object && shownOf(object.id)
    if (!object || !region || !shown) {
      this.clear()
      return
    }
    if (this.of !== shown.shaped || this.doc !== object) {
      this.clear()
      this.of = shown.shaped
      this.doc = object
      this.amounts = regionOf(object, region, shown.shaped, othersIn(shot, assets))
      const g = new THREE.BufferGeometry()
      // The same places as the object is drawn with.
      g.setAttribute('position', shown.mesh.geometry.getAttribute('position'))
      g.setAttribute(
        'amount',
        new THREE.BufferAttribute(new Float32Array(shown.shaped.rest.length / 3), 1).setUsage(THREE.DynamicDrawUsage),
      )
      g.setIndex(shown.mesh.geometry.getIndex())
      this.drawn = new THREE.Mesh(g, hatch())
      this.drawn.matrixAutoUpdate = false
      this.drawn.frustumCulled = false
      scene.add(this.drawn)
    }
    if (!this.drawn || !this.amounts) return
    this.drawn.visible = editing && shown.mesh.visible
    if (!this.drawn.visible) return
    const a = this.drawn.geometry.getAttribute('amount') as THREE.BufferAttribute
    ;(a.array as Float32Array).set(this.amounts(t))
    a.needsUpdate = true
    this.drawn.matrix.copy(shown.mesh.matrix)
    this.drawn.matrixWorldNeedsUpdate = true
  }
  dispose(): void {
    this.clear()
  }
}
