import * as THREE from 'three'
import { type Meshes, meshOf, type SpriteDrawing } from '../acts'
import type { Shot } from '../shot'
import type { DrawContext, Sheet } from './drawer'
import type { Textures } from './textures'

/** The longest side of a sheet that is put together from numbered files. */
const MOST_SIDE = 4096
const MOST_FILES = 256
/** As the shader numbers them. */
const BY = ['life', 'rate', 'random', 'fixed'] as const satisfies SpriteDrawing['by'][]
const FACES = ['camera', 'motion', 'upright', 'spin'] as const satisfies SpriteDrawing['faces'][]

/** The pictures of objects for particles: one file as it is, numbered files as one sheet. */
export class Sprites {
  private sheets = new Map<string, Sheet>()

  constructor(private textures: Textures) {}
  /** Null while it is not decoded, and where there is none. */
  of(shot: Shot, meshes: Meshes, d: SpriteDrawing): Sheet | null {
    const o = shot.objects.find((x) => x.id === d.object)
    if (!o) return null
    const files = o.shape.kind === 'mesh' ? [o.shape.asset, ...o.shape.poses].slice(0, MOST_FILES) : []
    const pictures = (files.length > 1 ? files.map((f) => meshes.get(f)) : [meshOf(o, meshes)]).flatMap((m) => m?.textures?.[0] ?? [])
    const decoded = pictures.map((p) => this.textures.of(p))
    const images = decoded.map((t) => t.image as ImageBitmap | undefined)
    if (!images.length || images.some((i) => !i)) return null
    const [first] = images as ImageBitmap[]
    // Pictures of light are not put together: the first stands for all.
    if (decoded.length === 1 || decoded[0] instanceof THREE.DataTexture) {
      const { columns, rows } = d
      return { texture: decoded[0], columns, rows, frames: columns * rows, aspect: first.width / columns / (first.height / rows) }
    }
    const key = files.join()
    let sheet = this.sheets.get(key)
    if (!sheet) this.sheets.set(key, (sheet = sheetOf(images as ImageBitmap[])))
    return sheet
  }
  static readonly uniforms = () => ({
    ...{ sheet: new THREE.Vector4(1, 1, 1, 1), frames: new THREE.Vector4(), facing: new THREE.Vector2(), spriteSeed: 0, picture: null },
  })
  /** What the shader of sprites reads. */
  static into(u: Record<string, THREE.IUniform>, c: DrawContext, d: SpriteDrawing, s: Sheet): void {
    u.sheet.value.set(s.columns, s.rows, s.frames, s.aspect)
    u.frames.value.set(BY.indexOf(d.by), d.rate, d.frame, d.meets)
    u.facing.value.set(FACES.indexOf(d.faces), d.roll && d.faces === 'camera' ? 1 : 0)
    u.spriteSeed.value = d.seed
    u.picture.value = s.texture
    u.sceneDepth.value = c.depth
    u.nearFar.value.set(c.camera.near, c.camera.far)
  }
  dispose(): void {
    for (const s of this.sheets.values()) s.texture.dispose()
    this.sheets.clear()
  }
}
/** Numbered pictures side by side; those of another size are fitted to the first. */
function sheetOf(images: readonly ImageBitmap[]): Sheet {
  const columns = Math.ceil(Math.sqrt(images.length))
  const rows = Math.ceil(images.length / columns)
  const [{ width, height }] = images
  const scale = Math.min(1, MOST_SIDE / (columns * width), MOST_SIDE / (rows * height))
  const [w, h] = [Math.max(1, Math.floor(width * scale)), Math.max(1, Math.floor(height * scale))]
  const canvas = new OffscreenCanvas(w * columns, h * rows)
  const g = canvas.getContext('2d')
  images.forEach((image, n) => g?.drawImage(image, (n % columns) * w, Math.floor(n / columns) * h, w, h))
  const texture = new THREE.CanvasTexture(canvas)
  texture.flipY = false
  texture.colorSpace = THREE.SRGBColorSpace
  return { texture, columns, rows, frames: images.length, aspect: width / height }
}
