import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, describe, expect, it } from 'vitest'
// @ts-expect-error: a plain script without types
import { logFile } from './logs.mjs'
// @ts-expect-error: a plain script without types
import { delayMs, keep } from './supervise.mjs'

const folder = mkdtempSync(join(tmpdir(), 'ember-logs-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const later = (ms: number) => new Promise<void>((done) => setTimeout(done, ms))

/** A part that ends when it is told to, and how often it was begun. */
function part() {
  const self = { begun: 0, running: 0, fail: 0, end: () => {} }
  const begin = async () => {
    self.begun++
    if (self.fail-- > 0) throw new Error('no port')
    self.running++
    let over = (_: unknown) => {}
    const ended = new Promise((done) => {
      over = done
    }).finally(() => self.running--)
    self.end = () => over({ code: 1, signal: null })
    return { pid: 1, ended, stop: async () => self.end() }
  }
  return { self, begin }
}
describe('keeping parts alive', () => {
  it('waits twice as long each time a part ends soon after its start, and never more than half a minute', () => {
    expect([0, 1, 2, 3, 6, 50].map(delayMs)).toEqual([500, 1000, 2000, 4000, 30000, 30000])
  })
  it('starts again what ended, says so, and forgives what ran for long', async () => {
    const { self, begin } = part()
    const said: string[] = []
    const kept = keep('the lamp', begin, { note: () => {}, complain: (t: string) => said.push(t), healthyMs: 150 })
    await later(20)
    self.end()
    await later(800)
    self.fail = 1
    // It ran for half a second: the next wait is the first again.
    self.end()
    await later(700)
    expect(said).toEqual([
      'the lamp ended (code 1); it starts again in 0.5 s',
      'the lamp ended (code 1); it starts again in 0.5 s',
      'the lamp did not start: no port; it starts again in 1 s',
    ])
    await kept.stop()
    expect([self.begun, self.running]).toEqual([3, 0])
  })
  it('asked to stop, starts nothing any more', async () => {
    const { self, begin } = part()
    const kept = keep('the lamp', begin, { note: () => {}, complain: () => {} })
    await later(20)
    self.end()
    await later(20)
    await kept.stop()
    await later(700)
    expect(self.begun).toBe(1)
  })
})
describe('logs', () => {
  it('are of bounded size, readable by their owner, and the oldest go', () => {
    const log = logFile(folder, 'web', 1000)
    for (let i = 0; i < 200; i++) log(`${String(i).padStart(5, '0')} ${'x'.repeat(94)}\n`)
    const names = readdirSync(folder).sort()
    expect(names).toEqual(['web.log', 'web.log.1', 'web.log.2', 'web.log.3'])
    for (const n of names) expect(statSync(join(folder, n)).size).toBeLessThan(1300)
    expect(statSync(join(folder, 'web.log')).mode & 0o777).toBe(0o600)
    expect(readFileSync(join(folder, 'web.log'), 'utf8')).toContain('00199 ')
  })
  it('that cannot be written stop nobody', () => {
    expect(() => logFile('/proc/ember', 'web')('text')).not.toThrow()
  })
})
