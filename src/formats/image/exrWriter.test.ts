import { execFileSync } from 'node:child_process'
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { readExr } from './exr'
import { rgbaChannels, writeExr } from './exrWriter'
import { fromHalf, toHalf } from './light'

const noise = (n: number, seed: number) => Float32Array.from({ length: n }, (_, i) => Math.fround(((i * 7919 + seed) % 1009) / 97))
describe('an EXR file that is written', () => {
  it('is read again by our own reader, from floats as from halves', async () => {
    for (const [width, height] of [
      [5, 3],
      [37, 16],
      [64, 41],
    ]) {
      const rgba = noise(width * height * 4, width)
      for (const type of ['float', 'half'] as const) {
        const r = await readExr(writeExr(width, height, rgbaChannels(rgba, type)))
        if (!r.ok) throw new Error(r.problem.message)
        expect([r.value.width, r.value.height]).toEqual([width, height])
        const { data } = r.value
        const stride = data.length / (width * height)
        for (let i = 0; i < width * height; i++)
          for (let c = 0; c < 3; c++) {
            // Our reader keeps halves, and cuts floats off.
            const want = fromHalf(toHalf(rgba[i * 4 + c]))
            expect(Math.abs(fromHalf(data[i * stride + c]) - want)).toBeLessThanOrEqual(type === 'half' ? 0 : want / 1000)
          }
      }
    }
  })
  it('is taken by the reference library, with layers, whole numbers and what is endlessly far', () => {
    const judge = join('..', 'shared', 'exchange', 'judges', 'judge-exr')
    if (!existsSync(judge)) return
    const folder = mkdtempSync(join(tmpdir(), 'ember-exr-'))
    const [width, height] = [40, 33]
    const n = width * height
    const path = join(folder, 'a.exr')
    const z = noise(n, 3).map((v, i) => (i % 7 ? v : Number.POSITIVE_INFINITY))
    writeFileSync(
      path,
      writeExr(
        width,
        height,
        [
          ...rgbaChannels(noise(n * 4, 1), 'half'),
          ...rgbaChannels(noise(n * 4, 2), 'float', 'a layer with a long name of its own'),
          { name: 'depth.Z', type: 'float', data: z },
          { name: 'id', type: 'uint', data: Uint32Array.from({ length: n }, (_, i) => i * 3000001) },
        ],
        { note: 'light as it is' },
      ),
    )
    try {
      const said = JSON.parse(execFileSync(judge, [path, '--at', '3,2'], { encoding: 'utf8' }))
      expect(said).toMatchObject({ ok: true, problems: [] })
      const at = said.parts[0].at['3,2']
      const i = 2 * width + 3
      expect(at.id).toBe(i * 3000001)
      expect(at['depth.Z']).toBeCloseTo(z[i], 5)
      expect(at.R).toBeCloseTo(fromHalf(toHalf(noise(n * 4, 1)[i * 4])), 6)
      expect(said.parts[0].channels.map((c: { name: string }) => c.name)).toContain('a layer with a long name of its own.R')
    } catch (error) {
      // Without the reference library nobody can be asked.
      if ((error as { status?: number }).status !== 2) throw error
    } finally {
      rmSync(folder, { recursive: true })
    }
  })
  it('says what it cannot hold', () => {
    const one = { name: 'R', type: 'half' as const, data: new Float32Array(4) }
    expect(() => writeExr(2, 2, [one, one])).toThrow('two channels are called R')
    expect(() => writeExr(3, 2, [one])).toThrow('R has 4 values for 3x2 pixels')
    expect(() => writeExr(2, 2, [{ ...one, name: 'Röte' }])).toThrow('cannot be the name')
  })
})
