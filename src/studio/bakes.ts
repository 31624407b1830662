import { useEffect } from 'react'
import { api, type Bake } from './api'
import type { Session } from './session'
import { setStudio, studio, useStudio } from './store'
import { toast } from './toast'
import { headsOf } from './workers'

/** Bakes are asked for again so often while one of them goes on. */
const EVERY_MS = 1200
export const isBusy = (b: Bake): boolean => b.state === 'running' || b.state === 'queued' || b.state === 'stopping'

/** When a bake was begun. */
export const bakedAt = (b: Bake): string => new Date(b.created).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' })
/** Whether a frame that the View shows comes from a bake, with all its detail. */
export const isBaked = (bakes: readonly Bake[], until: Readonly<Record<string, number | null>>, frame: number): boolean =>
  bakes.some((b) => {
    const end = until[b.id]
    return (
      !b.old &&
      end !== undefined &&
      (end === null || frame < end) &&
      b.frames.includes(frame) &&
      (!b.elements.length || b.frames.length === b.total)
    )
  })
/** The latest bake beside the View, or none. */
export function toggleLatestBake(): void {
  const { bakes, second } = studio()
  const latest = bakes.find((b) => b.frames.length && !b.old)
  if (second?.bake) setStudio({ second: null })
  else if (latest) setStudio({ second: { pose: null, bake: latest.id } })
  else toast('There is no bake of this shot yet: begin one in Bakes.', true)
}
/** Tells a simulation what was baked of its shot. */
export const tellBakes = (session: Session): void => session.bakes(headsOf(studio().bakes))
/** Takes a list of bakes, and tells the simulation of what is new in it. */
export function takeBakes(bakes: Bake[]): void {
  const known = (list: readonly Bake[]) => list.map((b) => `${b.id} ${b.frames.length}`).join()
  const same = known(bakes) === known(studio().bakes)
  setStudio({ bakes })
  const { session } = studio()
  if (session && !same) tellBakes(session)
}
export async function reloadBakes(): Promise<void> {
  const { id } = studio()
  if (id) takeBakes(await api.bakes(id))
}
/** Follows the bakes of the shot while one of them goes on. */
export function useBakes(): void {
  const busy = useStudio((s) => s.bakes.some(isBusy))
  useEffect(() => {
    if (!busy) return
    // A server that does not answer for a moment is asked again.
    const timer = setInterval(() => void reloadBakes().catch(() => {}), EVERY_MS)
    return () => clearInterval(timer)
  }, [busy])
}
