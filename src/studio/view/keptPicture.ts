// The exact picture of the View as a shot opens with it, kept by the server for the next opening at the same size.
import { frameKey } from '../../hosts/frameKey'
import { openingFrame, type Shot } from '../../shot'
import type { Bake } from '../api'
import { isRehearsal } from '../rehearsal'
import { type Studio, studio } from '../store'

/** A picture is kept when nothing has happened for this long. */
const KEEP_AFTER_MS = 1500
/** What a worker has drawn comes to the page a little later: two looks, so far apart, see the same. */
const BETWEEN_LOOKS_MS = 300
/** One that came sooner is not kept: to fetch it would take as long. */
const WORTH_MS = 1000

type Seen = Pick<Studio, 'playhead' | 'playing' | 'pose' | 'second' | 'region' | 'marks' | 'boost' | 'solo'> & { line: { now: Shot } }
/** Whether the View shows the shot as it opens, and nothing besides. */
export const isAsOpened = (s: Seen): boolean =>
  s.playhead === openingFrame(s.line.now) && !s.playing && !s.pose && !s.second && !s.region && !s.marks && !isRehearsal(s)
/** Whether the stage has drawn all of what the View is to show now. */
export const isWhole = ({ drawn, revision, playhead }: Pick<Studio, 'drawn' | 'revision' | 'playhead'>): boolean =>
  !!drawn?.ready && drawn.scale === 1 && drawn.share === 1 && drawn.revision >= revision && drawn.frame === playhead

/** What the picture depends on, as a name for its file: shot, baked frames, what draws it, and its size in pixels. */
export async function pictureName(
  shot: Shot,
  bakes: readonly Pick<Bake, 'id' | 'frames' | 'elements' | 'old'>[],
  by: { build: string; software: boolean },
  [width, height]: readonly [number, number],
): Promise<string> {
  const baked = bakes.filter((b) => !b.old && b.frames.includes(openingFrame(shot))).map(({ id, elements }) => ({ id, elements }))
  const all = { ...shot, baked, software: by.software }
  return `${await frameKey(all, by.build)}-${width}x${height}`
}
/** Null where none is kept. */
export async function fetchPicture(name: string, signal: AbortSignal): Promise<Blob | null> {
  const r = await fetch(`/api/openings/${name}`, { signal })
  return r.status === 200 ? r.blob() : null
}
/** Names that the server has, or was given by this page. */
const known = new Set<string>()
export const noteKnown = (name: string): void => void known.add(name)

/**
 * Keeps the picture of the View under a name in a while, unless something happens until then; `began`: when this View was made, ms. Returns how
 * to call it off.
 */
export function keepSoon(name: string, began: number): () => void {
  const from = studio()
  const { session } = from
  const worth = from.software || performance.now() - began > WORTH_MS
  if (!session || !worth || known.has(name)) return () => {}
  let off = false
  const isStill = () => {
    const s = studio()
    return !off && s.session === session && s.line.now === from.line.now && isAsOpened(s) && isWhole(s) && !s.failure && !s.contextLost
  }
  const wait = (ms: number) => new Promise((done) => setTimeout(done, ms))
  const keep = async () => {
    await wait(KEEP_AFTER_MS)
    // What a shot lacks may come later: its picture is not that of the document alone.
    if (!isStill() || studio().status?.problems.length) return
    const before = pixelsOf(session.canvas)
    await wait(BETWEEN_LOOKS_MS)
    if (!isStill() || known.has(name)) return
    const now = pixelsOf(session.canvas)
    if (!sameWords(before, now)) return
    const canvas = new OffscreenCanvas(now.width, now.height)
    canvas.getContext('2d')?.putImageData(now, 0, 0)
    const png = await canvas.convertToBlob({ type: 'image/png' })
    noteKnown(name)
    await fetch(`/api/openings/${name}`, { method: 'PUT', body: png })
  }
  // Nobody waits for it: without it the next opening draws its first picture itself.
  void keep().catch(() => {})
  return () => {
    off = true
  }
}
function pixelsOf(canvas: HTMLCanvasElement): ImageData {
  const copy = new OffscreenCanvas(canvas.width, canvas.height)
  const g = copy.getContext('2d', { willReadFrequently: true }) as OffscreenCanvasRenderingContext2D
  g.drawImage(canvas, 0, 0)
  return g.getImageData(0, 0, copy.width, copy.height)
}
function sameWords(a: ImageData, b: ImageData): boolean {
  const [x, y] = [new Uint32Array(a.data.buffer), new Uint32Array(b.data.buffer)]
  return x.length === y.length && x.every((v, i) => v === y[i])
}
