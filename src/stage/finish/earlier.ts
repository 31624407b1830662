import * as THREE from 'three'
import { actOfSort, crossAt, keptFrames, readerOf } from '../../acts'
import { type ActDoc, frameAt, type LayerDoc, looksOfPose, loopedTime, loopFrames, type Shot, timeOf } from '../../shot'
import { Lens } from '../lens'
import { copyPass, Pass } from '../passes'
import type { Picture } from '../picture'
import { lightTarget } from '../targets'

/** What pictures of earlier frames must share with the present one. */
export interface Moment {
  frame: number
  /** Nothing was seen before this frame. */
  first: number
  /** What it goes over into, near the end of a loop, and how much of that is seen. */
  cross: { frame: number; part: number } | null
  /** It is one that the end of a loop goes over into. */
  isEnd: boolean
  /** From where it is looked at: pictures from elsewhere are never taken. */
  from: string
  /** Its size, what is drawn of it and how well. */
  quality: string
  /** Of several looks that are gathered, which. */
  look: number
  looks: number
  /** What is there is taken, whatever its quality: for pictures in motion. */
  rough: boolean
  /** It is kept for frames to come. */
  keeps: boolean
}
interface Kept {
  target: THREE.WebGLRenderTarget
  from: string
  quality: string
  /** Looks that it was gathered from. */
  looks: number
}
/** A finish that looks at earlier frames, in the order in which they come into a picture: layers first, then the picture of all. */
interface Level {
  key: string
  layer: LayerDoc
  doc: ActDoc
}
const MIX = `
precision highp float;
in vec2 uv; out vec4 colour;
uniform sampler2D source; uniform sampler2D other; uniform float part;
void main() { colour = mix(texture(source, uv), texture(other, uv), part); }`
/** Whole pictures that are kept of a loop's end: the sharp one, and those to and fro. */
const KEPT_ENDS = 3
/** Frames that are kept beyond those that are looked at: one may go to and fro. */
const SPARE = 8

const agoOf = (doc: ActDoc, t: number, step: number): readonly number[] =>
  doc.muted ? [] : (actOfSort(doc.kind, 'finish').earlier?.(readerOf(doc), { t, step }) ?? [])
const keyOf = (layer: LayerDoc, doc: ActDoc): string => `${layer.id} ${doc.id}`
/** Whether pictures of a shot are made of others too: what lingers, and where a loop goes over into its beginning. */
export const looksBack = (shot: Shot): boolean =>
  !!shot.loop?.cross || shot.layers.some((l) => !l.muted && l.finish.some((doc) => !doc.muted && actOfSort(doc.kind, 'finish').earlier))

/** What a picture of a shot shares with those before it. */
export function recalled(shot: Shot, p: Picture): Moment {
  const { pose, lens, lingers } = p
  const rough = lingers !== 'exact'
  const frame = p.frame ?? Math.round(frameAt(shot, p.t))
  return {
    frame,
    first: shot.range.first - keptFrames(shot),
    cross: crossAt(shot, frame),
    isEnd: frame < shot.range.first && crossAt(shot, frame + (loopFrames(shot) ?? 0)) !== null,
    from: p.through ? 'through' : [...pose.place, ...pose.aim, pose.lens, pose.roll ?? 0, ...(pose.shift ?? [])].join(' '),
    quality: `${rough ? 'rough ' : ''}${p.width}x${p.height} ${p.share} ${p.samples} ${p.transparent}`,
    look: lens ?? 0,
    looks: lens === undefined && rough ? 1 : looksOfPose(pose),
    rough,
    keeps: lingers !== undefined,
  }
}
/**
 * Pictures of earlier frames, as they came to the finishes that look at them, at half the size. Of a frame there is one with everything that
 * comes before the finish, or none: so what lingers is the same however one got to a frame.
 */
export class Earlier {
  private kept = new Map<string, Map<number, Kept>>()
  private lenses = new Map<string, Lens>()
  /** Of the last frames that the end of a loop went over into, all their light. */
  private ends = new Map<number, Kept>()
  private over: THREE.WebGLRenderTarget | null = null
  private mix = new Pass(MIX, { source: null, other: null, part: 0 })
  private copy = copyPass()
  private nothing: THREE.DataTexture | null = null
  private now: Moment | null = null
  /** Layers for which some earlier picture is missing. */
  private lacks = new Set<string>()

  /** What the next pictures are of; null: none is kept, none is read. */
  begin(now: Moment | null): void {
    this.now = now
    this.lacks.clear()
  }
  /** Takes in what comes to a finish, and gives the earlier ones that it reads, by their names. */
  at(
    r: THREE.WebGLRenderer,
    layer: LayerDoc,
    isAll: boolean,
    doc: ActDoc,
    picture: THREE.Texture,
    size: [number, number],
    step: number,
    t: number,
  ) {
    const { now } = this
    const ago = agoOf(doc, t, step)
    if (!ago.length) return {}
    const key = keyOf(layer, doc)
    const frames = this.kept.get(key) ?? new Map<number, Kept>()
    this.kept.set(key, frames)
    const out: Record<string, THREE.Texture> = {}
    const whole = isAll ? !this.lacks.size : !this.lacks.has(layer.id)
    for (const k of ago) {
      const was = now ? frames.get(now.frame - k) : undefined
      const isThere = !!was && !!now && was.from === now.from && (now.rough || this.isExact(was, now))
      if (!isThere && now && now.frame - k >= now.first) this.lacks.add(layer.id)
      out[`earlier ${k}`] = isThere ? was.target.texture : this.black
    }
    if (now?.keeps && (whole || now.rough)) this.keep(r, key, frames, now, picture, size, ago[ago.length - 1], isAll)
    return out
  }
  /** Light of all layers, gone over into the beginning of a loop near its end; of frames that it goes over into it is kept. */
  crossed(r: THREE.WebGLRenderer, light: THREE.WebGLRenderTarget): THREE.Texture {
    const { now, ends } = this
    if (now?.isEnd && now.keeps && !this.lacks.size) {
      const target = ends.get(now.frame)?.target ?? lightTarget(light.width, light.height)
      if (target.width !== light.width || target.height !== light.height) target.setSize(light.width, light.height)
      this.copy.set({ source: light.texture }).run(r, target)
      ends.set(now.frame, { target, from: now.from, quality: now.quality, looks: now.look + 1 })
      for (const [f, k] of ends) {
        if (ends.size <= KEPT_ENDS) break
        k.target.dispose()
        ends.delete(f)
      }
    }
    if (!now?.cross) return light.texture
    const other = ends.get(now.cross.frame)
    if (!other || other.from !== now.from || !(now.rough || this.isExact(other, now))) {
      this.lacks.add('')
      return light.texture
    }
    if (this.over?.width !== light.width || this.over.height !== light.height) {
      this.over?.dispose()
      this.over = lightTarget(light.width, light.height)
    }
    this.mix.set({ source: light.texture, other: other.target.texture, part: now.cross.part }).run(r, this.over)
    return this.over.texture
  }
  private isExact(was: Kept, now: Moment): boolean {
    return was.quality === now.quality && was.looks >= now.looks
  }
  private keep(
    r: THREE.WebGLRenderer,
    key: string,
    frames: Map<number, Kept>,
    now: Moment,
    picture: THREE.Texture,
    [width, height]: [number, number],
    reach: number,
    isAll: boolean,
  ): void {
    const was = frames.get(now.frame)
    if (was && was.from === now.from && now.rough && !was.quality.startsWith('rough')) return
    const [w, h] = [width, height].map((n) => Math.max(2, Math.round(n / 2)))
    let target = was?.target
    if (target?.width !== w || target.height !== h) {
      target?.dispose()
      target = new THREE.WebGLRenderTarget(w, h, {
        ...{ type: THREE.HalfFloatType, depthBuffer: false, generateMipmaps: true },
        ...{ magFilter: THREE.LinearFilter, minFilter: THREE.LinearMipmapLinearFilter },
      })
    }
    this.copy.set({ source: picture }).run(r, target)
    // The picture of all comes gathered already; of layers each look comes by itself.
    if (now.looks > 1 && !isAll) {
      const lens = this.lenses.get(key) ?? new Lens()
      this.lenses.set(key, lens)
      lens.gather(r, target, now.look)
    }
    frames.set(now.frame, { target, from: now.from, quality: now.quality, looks: now.look + 1 })
    const far = [...frames.keys()].sort((a, b) => Math.abs(b - now.frame) - Math.abs(a - now.frame))
    for (const f of far.slice(0, Math.max(0, frames.size - reach - SPARE))) {
      frames.get(f)?.target.dispose()
      frames.delete(f)
    }
  }
  /** Frames that have to be drawn first, in order, so that nothing is missing in one. */
  lacking(shot: Shot, now: Moment): number[] {
    const step = shot.rate.den / shot.rate.num
    const [all, ...over] = shot.layers
    const levels: Level[] = [...over, all]
      .filter((l) => !l.muted)
      .flatMap((layer) => layer.finish.map((doc) => ({ key: keyOf(layer, doc), layer, doc })))
    const before = (l: Level) => levels.slice(0, levels.indexOf(l)).filter((o) => l.layer === all || o.layer === l.layer)
    const drawn = new Set<number>()
    const around = loopFrames(shot) ?? 0
    const seen = new Set<string>()
    const agoAt = (l: Level, frame: number) => agoOf(l.doc, loopedTime(shot, timeOf(shot, frame)), step)
    const visit = (frame: number, asked: readonly Level[]) => {
      for (const l of asked)
        for (const k of agoAt(l, frame)) {
          const at = frame - k
          const mark = `${l.key} ${at}`
          if (at < now.first || seen.has(mark)) continue
          seen.add(mark)
          const was = this.kept.get(l.key)?.get(at)
          if (was && was.from === now.from && this.isExact(was, now)) continue
          drawn.add(at)
          visit(at, before(l))
        }
    }
    const end = (frame: number) => {
      const cross = crossAt(shot, frame)
      const there = cross && this.ends.get(cross.frame)
      if (!cross || drawn.has(cross.frame) || (there && there.from === now.from && this.isExact(there, now))) return
      drawn.add(cross.frame)
      visit(
        cross.frame,
        levels.filter((l) => l.layer !== all),
      )
    }
    visit(now.frame, levels)
    // What lingers of the picture of all lingers of what it goes over into, too.
    for (const f of [now.frame, ...drawn]) end(f)
    // What a frame goes over into comes right before it: few of those are kept.
    const order = (f: number) => (f < shot.range.first && crossAt(shot, f + around) ? f + around - 0.5 : f)
    return [...drawn].sort((a, b) => order(a) - order(b))
  }
  private get black(): THREE.DataTexture {
    if (!this.nothing) {
      this.nothing = new THREE.DataTexture(new Uint8Array(4), 1, 1)
      this.nothing.needsUpdate = true
    }
    return this.nothing
  }
  /** Everything may look different from now on. */
  forget(): void {
    for (const frames of [...this.kept.values(), this.ends]) for (const k of frames.values()) k.target.dispose()
    this.kept.clear()
    this.ends.clear()
  }
  dispose(): void {
    this.forget()
    for (const l of this.lenses.values()) l.dispose()
    this.copy.dispose()
    this.mix.dispose()
    this.over?.dispose()
    this.nothing?.dispose()
  }
}
