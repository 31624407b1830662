import * as THREE from 'three'
import type { Mesh } from '../engine'

/** Pictures of files, decoded once each. They come later than the mesh; `onCome` says when one is there. */
export class Textures {
  private known = new WeakMap<Uint8Array, THREE.Texture>()
  private all: THREE.Texture[] = []
  private waiting = new Set<Promise<void>>()

  constructor(private onCome: () => void) {}
  of(data: Uint8Array, type: string): THREE.Texture {
    const known = this.known.get(data)
    if (known) return known
    const texture = new THREE.Texture()
    // glTF counts from the top of the picture.
    texture.flipY = false
    texture.colorSpace = THREE.SRGBColorSpace
    texture.wrapS = texture.wrapT = THREE.RepeatWrapping
    texture.anisotropy = 4
    this.known.set(data, texture)
    this.all.push(texture)
    const come = createImageBitmap(new Blob([data as Uint8Array<ArrayBuffer>], { type }), {
      premultiplyAlpha: 'none',
      colorSpaceConversion: 'none',
    })
      .then((image) => {
        texture.image = image
        texture.needsUpdate = true
        this.onCome()
      })
      // One that cannot be decoded stays plain; the reader of the file has named its kind.
      .catch(() => {})
      .finally(() => this.waiting.delete(come))
    this.waiting.add(come)
    return texture
  }
  /** Until every picture that was asked for is there. */
  async ready(): Promise<void> {
    while (this.waiting.size) await Promise.all(this.waiting)
  }
  dispose(): void {
    for (const t of this.all) t.dispose()
    this.all = []
  }
}
/** Runs of triangles with a picture each, for one draw apiece: materials by number, 0 without one. */
export function groupsOf(mesh: Mesh, g: THREE.BufferGeometry): void {
  if (!mesh.textures?.length || !mesh.uv) return
  g.setAttribute('uv', new THREE.BufferAttribute(mesh.uv, 2))
  let at = 0
  const plain = (to: number) => {
    if (to > at) g.addGroup(at * 3, (to - at) * 3, 0)
    at = Math.max(at, to)
  }
  for (const p of [...mesh.parts].sort((a, b) => a.firstTriangle - b.firstTriangle)) {
    const k = mesh.textures.findIndex((t) => t.part === p.name)
    if (k < 0 || p.firstTriangle < at) continue
    plain(p.firstTriangle)
    g.addGroup(p.firstTriangle * 3, p.triangleCount * 3, k + 1)
    at = p.firstTriangle + p.triangleCount
  }
  plain(mesh.indices.length / 3)
}
