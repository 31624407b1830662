import { framesPerSecond } from '../shot'
import { setPlayhead, setStudio, shotNow, studio } from './store'

/**
 * Plays at true speed: the frame follows the clock and frames are dropped when drawing is slower. The clock waits where frames
 * are not computed yet.
 */
let handle = 0
let origin = 0
let from = 0

const hasFrame = (frame: number): boolean => {
  const status = studio().status
  const bead = status?.beads[frame - status.first]
  return bead === 'r' || bead === 'o'
}
function tick(now: number): void {
  const s = studio()
  if (!s.playing) return
  handle = requestAnimationFrame(tick)
  const { first, last } = shotNow().range
  let wanted = Math.floor(from + ((now - origin) / 1000) * framesPerSecond(shotNow()))
  if (wanted > last) {
    if (!s.loop) {
      setPlayhead(last)
      pause()
      return
    }
    wanted = first
    origin = now
    from = first
  }
  // A picture still being drawn: wait for it rather than queue another.
  if (s.drawn && s.drawn.frame !== s.playhead && hasFrame(s.playhead)) return
  let to = s.playhead < wanted ? s.playhead : wanted
  while (to < wanted && hasFrame(to + 1)) to++
  if (to < wanted) {
    origin = now
    from = to
  }
  if (to !== s.playhead) setPlayhead(to)
}
export function play(): void {
  if (studio().playing) return
  const { first, last } = shotNow().range
  if (studio().playhead >= last) setPlayhead(first)
  setStudio({ playing: true })
  studio().session?.moving(true)
  origin = performance.now()
  from = studio().playhead
  handle = requestAnimationFrame(tick)
}
export function pause(): void {
  if (!studio().playing) return
  cancelAnimationFrame(handle)
  setStudio({ playing: false })
  studio().session?.moving(false)
}
export const togglePlay = (): void => (studio().playing ? pause() : play())
export function restart(): void {
  const { first } = shotNow().range
  setPlayhead(first)
  origin = performance.now()
  from = first
}
export function stepFrame(by: number): void {
  pause()
  setPlayhead(studio().playhead + by)
}
