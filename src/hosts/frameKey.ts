import { openingFrame, type Shot, withoutDetail } from '../shot'
import { FORM } from './framePack'

/** What the frames of a shot depend on, as a name for its file: the document but for its name, and the build that computes it. */
export async function frameKey(shot: { name: string }, build: string): Promise<string> {
  const text = JSON.stringify({ ...shot, name: '', build, form: FORM })
  const hash = await crypto.subtle.digest('SHA-256', new TextEncoder().encode(text))
  return [...new Uint8Array(hash)].map((b) => b.toString(16).padStart(2, '0')).join('')
}
/** Under which name the server keeps one frame of those of a key. */
export const frameName = (key: string, frame: number): string => `${key}-${frame}`
/** That of the frame with which a shot opens, as a build computes it. */
export async function openingName(shot: Shot, build: string): Promise<string> {
  const opened = withoutDetail(shot)
  return frameName(await frameKey(opened, build), openingFrame(opened))
}
