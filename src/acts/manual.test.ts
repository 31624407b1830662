import { readFileSync } from 'node:fs'
import { expect, it } from 'vitest'
import { ACTS, FUNCTIONS, manual, PRIMITIVES } from '.'

it('the reference in docs is the one of the registry: bin/ember manual > docs/reference.md', () => {
  expect(readFileSync('docs/reference.md', 'utf8').trimEnd()).toBe(manual().trimEnd())
})
it('names every act, shape and function, with a row for each parameter', () => {
  const text = manual()
  for (const a of [...ACTS, ...PRIMITIVES]) {
    expect(text).toContain(`\`${a.kind}\``)
    for (const [name, p] of Object.entries(a.params)) {
      expect(text).toContain(`| \`${name}\` |`)
      expect(text).toContain(p.help.replaceAll('|', '\\|'))
    }
  }
  for (const f of Object.keys(FUNCTIONS)) expect(text).toContain(`${f}(`)
  expect(text).not.toMatch(/undefined|\[object /)
})
