import { whyUnanswered } from '../protocol'
import { messageOf } from './api'
import { shotNow, studio } from './store'

/** Pixels across at the most. */
const WIDEST = 960
const even = (n: number): number => Math.max(16, Math.round(n / 2) * 2)

export interface Preview {
  movie: Blob
  width: number
  height: number
  frames: number
}
/** Frames of the shot that are ready, in order. */
export function framesReady(): number[] {
  const { first, last } = shotNow().range
  const { status } = studio()
  return Array.from({ length: last - first + 1 }, (_, i) => first + i).filter((f) => status?.beads[f - status.first] === 'r')
}
/** A movie of the frames that are ready, as the View draws: nothing is simulated again. Throws with words for the artist. */
export async function makePreview(progress: (done: number, of: number) => void, signal: AbortSignal): Promise<Preview> {
  const { session } = studio()
  const { size, rate } = shotNow()
  const frames = framesReady()
  if (!session || !frames.length) throw new Error('No frame is ready yet: wait until some are computed.')
  const scale = Math.min(1, WIDEST / size.width)
  const [width, height] = [even(size.width * scale), even(size.height * scale)]
  const pictures: Blob[] = []
  for (const [i, frame] of frames.entries()) {
    progress(i, frames.length)
    const settled = await session.ask({ what: 'preview', frame, width, height }, signal)
    if (signal.aborted) throw new Error('stopped')
    if (settled.state !== 'answered') throw new Error(`Frame ${frame} could not be drawn: ${whyUnanswered(settled) ?? 'it was left'}.`)
    pictures.push(settled.value)
  }
  progress(frames.length, frames.length)
  const r = await fetch(`/api/previews?rate=${rate.num}/${rate.den}`, { method: 'POST', body: new Blob(pictures), signal }).catch(
    (error) => {
      throw new Error(signal.aborted ? 'stopped' : `The server does not answer: ${messageOf(error)}`)
    },
  )
  if (!r.ok) throw new Error(((await r.json().catch(() => null)) as { error?: string } | null)?.error ?? `the server answered ${r.status}`)
  return { movie: await r.blob(), width, height, frames: frames.length }
}
