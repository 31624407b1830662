import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { outcomeOf, Requests, type Settled, valueOr, whyUnanswered } from '.'

beforeEach(() => void vi.useFakeTimers())
afterEach(() => void vi.useRealTimers())
const open = (cancelled: number[] = []) => {
  const sent: number[] = []
  const requests = new Requests(1000, (id) => cancelled.push(id))
  return { sent, requests, ask: (signal?: AbortSignal) => requests.send<string>((id) => sent.push(id), signal) }
}

describe('requests to a worker', () => {
  it('settle with the answer to their own number, in whatever order answers come', async () => {
    const { sent, requests, ask } = open()
    const [a, b] = [ask(), ask()]
    expect(sent).toEqual([1, 2])
    requests.settle(2, { state: 'answered', value: 'b' })
    requests.settle(1, { state: 'failed', message: 'no such frame' })
    expect([await a, await b]).toEqual([
      { state: 'failed', message: 'no such frame' },
      { state: 'answered', value: 'b' },
    ])
  })
  it('settle once: what comes later, or for nobody, changes nothing', async () => {
    const { requests, ask } = open()
    const a = ask()
    requests.settle(1, { state: 'answered', value: 'first' })
    requests.settle(1, { state: 'answered', value: 'second' })
    requests.settle(9, { state: 'answered', value: 'nobody' })
    requests.end({ state: 'disposed' })
    expect(await a).toEqual({ state: 'answered', value: 'first' })
  })
  it('time out, and tell the other side', async () => {
    const cancelled: number[] = []
    const { ask } = open(cancelled)
    const a = ask()
    vi.advanceTimersByTime(999)
    expect(cancelled).toEqual([])
    vi.advanceTimersByTime(1)
    expect(await a).toEqual({ state: 'timedOut' })
    expect(cancelled).toEqual([1])
  })
  it('are cancelled by their signal, also before they are sent', async () => {
    const cancelled: number[] = []
    const { sent, ask } = open(cancelled)
    const stop = new AbortController()
    const a = ask(stop.signal)
    stop.abort()
    expect(await a).toEqual({ state: 'cancelled' })
    expect(await ask(stop.signal)).toEqual({ state: 'cancelled' })
    expect([sent, cancelled]).toEqual([[1], [1]])
  })
  it.each([{ state: 'crashed', message: 'the stage stopped' } as const, { state: 'disposed' } as const])(
    'end with the worker, all that wait and all that come: %o',
    async (how) => {
      const { sent, requests, ask } = open()
      const waiting = [ask(), ask()]
      requests.end(how)
      expect(await Promise.all([...waiting, ask()])).toEqual([how, how, how])
      expect(sent).toHaveLength(2)
      expect(vi.getTimerCount()).toBe(0)
    },
  )
  it('give a value or words: an error of the other side crosses as its message', async () => {
    const answered: Settled<number> = await outcomeOf(() => 7)
    const failed: Settled<number> = await outcomeOf(() => Promise.reject(new Error('frame 8 is not there yet')))
    expect([valueOr(answered, null), valueOr(failed, null)]).toEqual([7, null])
    expect(whyUnanswered(answered)).toBeNull()
    expect(whyUnanswered(failed)).toBe('frame 8 is not there yet')
    expect(whyUnanswered({ state: 'timedOut' })).toMatch(/in time/)
    expect(whyUnanswered({ state: 'disposed' })).toBeNull()
  })
})
