import { valueOr } from '../protocol'
import { api, messageOf } from './api'
import { isRehearsal } from './rehearsal'
import { Saver } from './saver'
import { setStudio, shotNow, studio } from './store'
import { toast } from './toast'
import { notePicture } from './view/Poster'

/** The saver of the shot page that is open, and what the save dialogs do with it. */
let saver: Saver | null = null
let pictureTimer: ReturnType<typeof setTimeout> | null = null

export function adoptSaver(made: Saver | null): void {
  saver?.dispose()
  saver = made
}
export const changedNow = (): void => {
  saver?.changed(shotNow())
  // The projects page shows the shot as it is: a small picture, some time after the last change.
  if (pictureTimer) clearTimeout(pictureTimer)
  pictureTimer = setTimeout(() => void keepPicture(), 4000)
}
export async function keepPicture(): Promise<void> {
  const { session, id, playing, drawn } = studio()
  // Not of what only the View shows.
  if (!session || !id || playing || isRehearsal(studio())) return
  // Of an exact frame only, and never while one is being waited for: drawing it takes the stage's time.
  if (drawn && !drawn.ready) {
    pictureTimer = setTimeout(() => void keepPicture(), 1000)
    return
  }
  const size = shotNow().size
  const height = Math.max(2, Math.round((480 * size.height) / size.width))
  const jpeg = valueOr(await session.ask({ what: 'picture', width: 480, height }), null)
  if (!jpeg || studio().id !== id) return
  await api.picture(id, jpeg).then(
    () => notePicture(id),
    () => {},
  )
}
/** Sends what is unsent now; throws when the server does not take it. */
export async function saveNow(): Promise<void> {
  await saver?.flush()
  const s = studio().save
  if (s.kind === 'offline' || s.kind === 'refused') throw new Error(s.message)
  if (s.kind === 'conflict') throw new Error('this shot was changed elsewhere meanwhile')
}
export const leaveNow = (): void => void saver?.flush(true)

export async function keepCopy(): Promise<void> {
  try {
    const doc = { ...shotNow(), name: `${shotNow().name} (my copy)`.slice(0, 200) }
    const made = await api.createShot(studio().project.id, doc)
    await Saver.forget(studio().id)
    setStudio({ save: { kind: 'saved', at: new Date().toISOString() } })
    location.href = `/shot/${made.id}`
  } catch (error) {
    toast(messageOf(error), true)
  }
}
export async function reloadTheirs(): Promise<void> {
  await Saver.forget(studio().id)
  setStudio({ save: { kind: 'saved', at: new Date().toISOString() } })
  location.reload()
}
