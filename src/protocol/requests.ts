/** What became of a request: every request settles once, with one of these. */
export type Settled<T> =
  | { state: 'answered'; value: T }
  /** The other side could not do it, and says why. */
  | { state: 'failed'; message: string }
  | { state: 'cancelled' }
  | { state: 'timedOut' }
  /** The other side is gone. */
  | { state: 'crashed'; message: string }
  /** This side has closed. */
  | { state: 'disposed' }
/** What the other side sends back. */
export type Outcome<T> = Extract<Settled<T>, { state: 'answered' | 'failed' }>

/** The outcome of what a worker does to answer. */
export async function outcomeOf<T>(answer: () => T | Promise<T>): Promise<Outcome<T>> {
  try {
    return { state: 'answered', value: await answer() }
  } catch (error) {
    return { state: 'failed', message: error instanceof Error ? error.message : String(error) }
  }
}
/** The value of an answer, or something else when there is none. */
export const valueOr = <T, D>(settled: Settled<T>, other: D): T | D => (settled.state === 'answered' ? settled.value : other)

/** Words for a person: why there is no answer; null when there is one, or nobody waits for it any more. */
export function whyUnanswered(settled: Settled<unknown>): string | null {
  switch (settled.state) {
    case 'answered':
    case 'cancelled':
    case 'disposed':
      return null
    case 'failed':
    case 'crashed':
      return settled.message
    case 'timedOut':
      return 'there was no answer in time; try again when the run has caught up'
  }
}

/** Requests to one worker that have not been answered yet. */
export class Requests {
  private pending = new Map<number, (s: Settled<unknown>) => void>()
  private next = 1
  private ended: Settled<never> | null = null
  /** `cancel`: tells the other side that nobody waits for a request any more. */
  constructor(
    private timeoutMs: number,
    private cancel: (id: number) => void = () => {},
  ) {}
  /** Sends a request under a number of its own. */
  send<T>(post: (id: number) => void, signal?: AbortSignal): Promise<Settled<T>> {
    if (this.ended) return Promise.resolve(this.ended)
    if (signal?.aborted) return Promise.resolve({ state: 'cancelled' })
    const id = this.next++
    return new Promise((resolve) => {
      const give = (state: 'timedOut' | 'cancelled') => () => {
        this.cancel(id)
        this.settle(id, { state })
      }
      const timer = setTimeout(give('timedOut'), this.timeoutMs)
      const abort = give('cancelled')
      signal?.addEventListener('abort', abort, { once: true })
      this.pending.set(id, (s) => {
        clearTimeout(timer)
        signal?.removeEventListener('abort', abort)
        resolve(s as Settled<T>)
      })
      post(id)
    })
  }
  /** Settles a request; one that was settled already stays as it was. */
  settle(id: number, settled: Settled<unknown>): void {
    const done = this.pending.get(id)
    this.pending.delete(id)
    done?.(settled)
  }
  /** The other side crashed, or this one closes: all that wait are settled so, and all that come. */
  end(settled: Extract<Settled<never>, { state: 'crashed' | 'disposed' }>): void {
    this.ended = settled
    for (const id of [...this.pending.keys()]) this.settle(id, settled)
  }
}
