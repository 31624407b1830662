import { readFileSync } from 'node:fs'
import { expect, it } from 'vitest'

/** A file of the page's workers with all that must be there before it runs. */
function needed(name: string, seen = new Map<string, string>()): Map<string, string> {
  if (seen.has(name)) return seen
  const text = readFileSync(`public/workers/${name}`, 'utf8')
  seen.set(name, text)
  for (const [, path] of text.matchAll(/(?:from|import)"\.\/([\w-]+\.js)"/g)) needed(path, seen)
  return seen
}
const bytes = (files: Map<string, string>) => [...files.values()].reduce((n, text) => n + text.length, 0)

it("the simulation's worker starts small: readers of letters, drawings, GLB and EXR are loaded when they are needed", () => {
  const sim = needed('sim.js')
  // 1.9 MB before they were taken out (measured.md).
  expect(bytes(sim)).toBeLessThan(900_000)
  const rare = [...(sim.get('sim.js') ?? '').matchAll(/import\("\.\/([\w-]+\.js)"\)/g)].map(([, path]) => path)
  expect(rare.length).toBeGreaterThanOrEqual(4)
  for (const path of rare) expect([...sim.keys()]).not.toContain(path)
})
it('the worker that draws is one file', () => {
  const stage = needed('stage.js')
  expect([...stage.keys()]).toEqual(['stage.js'])
  expect(bytes(stage)).toBeLessThan(1_700_000)
})
