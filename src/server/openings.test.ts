import { existsSync, mkdtempSync, readdirSync, rmSync, utimesSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { readOpening, saveOpening, typeOfOpening } from './openings'

let data: string
beforeEach(() => {
  data = mkdtempSync(join(tmpdir(), 'openings-'))
})
afterEach(() => rmSync(data, { recursive: true, force: true }))
const name = (digit: string, frame = 40) => `${digit.repeat(64)}-${frame}`
const frame = (bytes: number, value: number) => new Uint8Array(bytes).fill(value)

describe('frames that shots open with', () => {
  it('come back as they were kept, each under what it depends on', async () => {
    await saveOpening(data, name('a'), frame(1000, 1))
    await saveOpening(data, name('a', 41), frame(500, 2))
    expect(readOpening(data, name('a'))).toEqual(Buffer.from(frame(1000, 1)))
    expect(readOpening(data, name('a', 41))).toEqual(Buffer.from(frame(500, 2)))
    expect(readOpening(data, name('b'))).toBe(null)
  })
  it('go when there are too many, those that nobody asked for first', async () => {
    for (const [k, digit] of ['1', '2', '3'].entries()) {
      await saveOpening(data, name(digit), frame(400, k), 1300)
      utimesSync(join(data, 'openings', name(digit)), k + 1, k + 1)
    }
    readOpening(data, name('1'))
    await saveOpening(data, name('4'), frame(400, 4), 1300)
    expect(readdirSync(join(data, 'openings')).sort()).toEqual([name('1'), name('3'), name('4')])
  })
  it('stand beside pictures of the View, which are PNG and go with them', async () => {
    const picture = `${'d'.repeat(64)}-1920x1080`
    const png = Uint8Array.of(0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a, 5)
    await expect(saveOpening(data, picture, frame(9, 1))).rejects.toThrow('must be a PNG')
    await saveOpening(data, picture, png)
    expect(readOpening(data, picture)).toEqual(Buffer.from(png))
    expect([typeOfOpening(picture), typeOfOpening(name('d'))]).toEqual(['image/png', 'application/octet-stream'])
    utimesSync(join(data, 'openings', picture), 1, 1)
    await saveOpening(data, name('e'), frame(100, 1), 104)
    expect(readdirSync(join(data, 'openings'))).toEqual([name('e')])
  })
  it('have no other names, and are not too large', async () => {
    for (const bad of [
      '',
      'x',
      '../secret',
      `${'a'.repeat(64)}-`,
      `${'a'.repeat(64)}-1/..`,
      `${'A'.repeat(64)}-1`,
      `${'a'.repeat(64)}-1x`,
      `${'a'.repeat(64)}-1x2x3`,
    ])
      await expect(saveOpening(data, bad, frame(1, 1))).rejects.toThrow('this frame')
    await expect(saveOpening(data, name('a'), frame(49 << 20, 1))).rejects.toThrow('at most 48 MB')
    expect(existsSync(join(data, 'openings'))).toBe(false)
  })
})
