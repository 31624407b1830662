import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import {
  BIRTH,
  COLLIDER,
  COLUMNS,
  DISTANCE,
  GRID,
  JOB,
  LEAF_BYTES,
  NODE_BYTES,
  OP,
  OP_CODES,
  PAIR,
  PAIR_COLUMNS,
  PAIR_LISTED,
  PAIR_WHAT,
  PASS,
  PASSES,
  SCRATCH_BYTES,
  WAYS,
} from '.'

/** The kernels' own constants, read from their sources. */
const constants = (file: string): Record<string, number> => {
  const out: Record<string, number> = {}
  for (const m of readFileSync(`src/kernels/${file}`, 'utf8').matchAll(/\b([A-Z][A-Z0-9_]*)(?:: \w+)? = (\d+)/g)) out[m[1]] = Number(m[2])
  return out
}
const words = (name: string) => name.replace(/[A-Z]/g, (c) => `_${c}`).toUpperCase()

describe('the layout tables of the engine and of the kernels', () => {
  const c = constants('layout.ts')
  it('have the same columns', () => {
    for (const [i, name] of COLUMNS.entries()) if (!['mass', 'size', 'parent'].includes(name)) expect(c[words(name)], name).toBe(i)
  })
  it('have the same job', () => {
    for (const [name, at] of Object.entries(JOB)) if (name !== 'bytes') expect(c[`JOB_${words(name)}`], name).toBe(at)
  })
  it('have the same ops', () => {
    for (const [name, at] of Object.entries(OP)) expect(c[`OP_${words(name)}`], name).toBe(at)
    for (const [name, code] of Object.entries(OP_CODES)) expect(c[`OP_${words(name)}`], name).toBe(code)
    expect(c.SCRATCH_BYTES).toBe(SCRATCH_BYTES)
  })
  it('have the same birth record', () => {
    const b = constants('birth.ts')
    const other: Record<string, string> = { direction: 'B_DIR', cosSpread: 'B_COS' }
    for (const [name, at] of Object.entries(BIRTH)) if (name !== 'bytes') expect(b[other[name] ?? `B_${words(name)}`], name).toBe(at)
  })
  it('have the same collider record, nodes and leaves', () => {
    const k = constants('collider.ts')
    const named: Record<string, string> = { out0: 'C_OUT0', out1: 'C_OUT1', in0: 'C_IN0', in1: 'C_IN1' }
    for (const [name, at] of Object.entries(COLLIDER))
      if (name !== 'bytes' && name !== 'kind') expect(k[named[name] ?? `C_${words(name)}`], name).toBe(at)
    expect(k.COLLIDER_BYTES).toBe(COLLIDER.bytes)
    const cast = constants('cast.ts')
    expect(cast.NODE_BYTES).toBe(NODE_BYTES)
    expect(cast.LEAF_BYTES).toBe(LEAF_BYTES)
  })
  it('have the same records of neighbours and pairs', () => {
    const same = (file: string, letter: string, table: Record<string, number>, other: Record<string, string> = {}) => {
      const k = constants(file)
      for (const [name, at] of Object.entries(table))
        if (name !== 'bytes') expect(k[other[name] ?? `${letter}_${words(name)}`], name).toBe(at)
    }
    same('grid.ts', 'G', GRID)
    expect(constants('grid.ts').GRID_BYTES).toBe(GRID.bytes)
    same('neighbours.ts', 'P', PASS)
    same('pairs.ts', 'Q', PAIR)
    same('distance.ts', 'D', DISTANCE)
    const pairs = constants('pairs.ts')
    for (const [name, what] of Object.entries(PAIR_WHAT)) expect(pairs[words(name)], name).toBe(what)
    expect(pairs.S_LISTED + 1).toBe(PAIR_COLUMNS)
    expect(pairs.LISTED).toBe(PAIR_LISTED)
    const kinds = constants('neighbours.ts')
    PASSES.forEach((name, i) => expect(kinds[words(name)], name).toBe(i))
    const met = constants('collider.ts')
    WAYS.forEach((name, i) => name !== 'bounce' && expect(met[words(name)], name).toBe(i))
  })
})
