import type { SimStatus } from '../../protocol'
import { type Studio, setStudio, studio } from '../store'

/**
 * What the page shows of a playing picture: playhead, counts, specks. It follows every picture; without a GPU only a few times a
 * second, because there each repaint of the page costs as much as a picture (74 ms at 1280x800, measured).
 */
const SOFTWARE_PAGE_MS = 400
/**
 * How far the simulation is. Without a GPU each repaint of the page is put together by both cores (about 115 ms at 1280x800,
 * measured), so while it catches up and nobody plays the page follows more seldom.
 */
const SOFTWARE_STATUS_MS = 700
/** Counts of a frame whose picture does not come, for a lost context or a View without a size, are shown after this. */
const NO_PICTURE_MS = 700

type Counts = Pick<Studio, 'stats' | 'ages'>

/** Brings what the workers say onto the page, as often as the page can take it. */
export class PageUpdates {
  private pending: Partial<Studio> = {}
  private lastPage = 0
  private lastStatus = Number.NEGATIVE_INFINITY
  /** Counts and ages of a frame wait for its picture, so that repainting the page does not take the time of drawing it. */
  private counts: ({ serial: number } & Counts) | null = null
  private timer: ReturnType<typeof setTimeout> | null = null

  /** Something that comes with every picture. */
  publish(part: Partial<Studio>): void {
    this.pending = { ...this.pending, ...part }
    const now = performance.now()
    if (studio().playing && studio().software && now - this.lastPage < SOFTWARE_PAGE_MS) return
    this.lastPage = now
    this.flush()
  }
  flush(): void {
    const part = this.pending
    this.pending = {}
    setStudio(part)
  }
  /** The simulation has handed a frame over. */
  frameShown({ serial, stats, ages }: { serial: number } & Counts): void {
    this.counts = { serial, stats, ages }
    if (this.timer) clearTimeout(this.timer)
    this.timer = setTimeout(() => {
      const counts = this.counts
      this.counts = null
      if (counts) setStudio({ stats: counts.stats, ages: counts.ages })
    }, NO_PICTURE_MS)
  }
  /** The counts that belong to a picture, once. */
  takeCounts(serial: number): Partial<Counts> {
    const { counts } = this
    if (!counts || serial < counts.serial) return {}
    this.counts = null
    return { stats: counts.stats, ages: counts.ages }
  }
  status(status: SimStatus): void {
    const s = studio()
    const now = performance.now()
    if (s.software && !s.playing && status.computing !== null && now - this.lastStatus < SOFTWARE_STATUS_MS) return
    this.lastStatus = now
    setStudio({ status })
  }
  /** A change touches frames from here on: the strip says at once what the simulation will say when it has taken it. */
  touched(from: number): void {
    const { status } = studio()
    if (!status) return
    const at = Math.max(0, from - status.first)
    this.lastStatus = performance.now()
    const beads = status.beads.slice(0, at) + status.beads.slice(at).replaceAll('r', 'o')
    const computing = status.computing === null ? from : Math.min(from, status.computing)
    if (beads !== status.beads || computing !== status.computing) setStudio({ status: { ...status, beads, computing } })
  }
  reset(): void {
    this.counts = null
  }
}
