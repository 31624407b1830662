import { readFileSync } from 'node:fs'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { BIRTH, COLLIDER, f32, GRID, i32, JOB, layout, OPS, OpWriter, PAIR, PASS, u32, VOLUME, writeRecord } from '..'

const kernel = (file: string) => readFileSync(`src/kernels/${file}.ts`, 'utf8')
const upper = (name: string) => name.replace(/[A-Z]/g, (c) => `_${c}`).toUpperCase()

describe('records', () => {
  it('lay their fields out one behind the other, and read back what was written (property)', () => {
    const type = fc.constantFrom('f32', 'i32', 'u32')
    const field = fc.record({ type, count: fc.integer({ min: 1, max: 5 }) })
    fc.assert(
      fc.property(fc.array(field, { minLength: 1, maxLength: 12 }), fc.integer({ min: 0, max: 9 }), (list, from) => {
        const make = { f32, i32, u32 }
        const fields = Object.fromEntries(list.map((f, i) => [`field${i}`, make[f.type as 'f32'](f.count)]))
        const record = layout(fields, { from: from * 4, align: 16 })
        let at = from * 4
        const values: Record<string, number[]> = {}
        list.forEach((f, i) => {
          expect(record[`field${i}`]).toBe(at)
          values[`field${i}`] = Array.from({ length: f.count }, (_, k) => (f.type === 'i32' ? -1 : 1) * (i * 8 + k + 1))
          at += f.count * 4
        })
        expect(record.bytes).toBe(Math.ceil(at / 16) * 16)
        const view = new DataView(new ArrayBuffer(record.bytes + 64))
        writeRecord(view, 32, record, values)
        list.forEach((f, i) => {
          const read = { f32: 'getFloat32', i32: 'getInt32', u32: 'getUint32' } as const
          const word = (k: number) => view[read[f.type as 'f32']](32 + record[`field${i}`] + k * 4, true)
          expect(Array.from({ length: f.count }, (_, k) => word(k))).toEqual(values[`field${i}`])
        })
      }),
    )
  })
  it('leave fields alone that are not named', () => {
    const view = new DataView(new ArrayBuffer(JOB.bytes))
    writeRecord(view, 0, JOB, { count: 7, dt: 0.5 })
    writeRecord(view, 0, JOB, { count: -2 })
    expect([view.getInt32(JOB.count, true), view.getFloat32(JOB.dt, true), view.getUint32(JOB.kind, true)]).toEqual([-2, 0.5, 0])
  })
  it('have a size that their readers may step by', () => {
    for (const r of [COLLIDER, VOLUME]) expect(r.bytes % 16).toBe(0)
    for (const r of [JOB, GRID, PASS, PAIR, BIRTH]) expect(r.bytes % 4).toBe(0)
  })
})
describe('the layout of the kernels', () => {
  const made = kernel('layout')
  it('is made of these tables', () => {
    for (const [name, record] of Object.entries({ JOB, COLLIDER, GRID, PASS, PAIR, VOLUME, BIRTH })) {
      for (const field of Object.keys(record.fields))
        expect(made).toContain(`export const ${name}_${upper(field)}: usize = ${record[field as never]}\n`)
      expect(made).toContain(`export const ${name}_BYTES: usize = ${record.bytes}\n`)
    }
  })
  it('reads every word of every op, and calls its kernel', () => {
    const sources = Object.fromEntries([...new Set(OPS.map((op) => op.kernel))].map((file) => [file, kernel(file)]))
    for (const op of OPS) {
      expect(made).toContain(`export const OP_${upper(op.name)}: i32 = ${op.code}\n`)
      // Those that share their words with another are read by its names.
      const names = { wind: ['WIND', 'TURBULENCE'], wakeFlow: ['WAKE'], limitWake: ['WAKE'] }[op.name] ?? [
        upper(op.name),
        // All conditions have their row and whether they are turned round at the same place.
        ...(op.group === 'when' ? ['WHEN_TIME'] : []),
      ]
      for (const field of Object.keys(op.words.fields))
        expect(
          names.some((name) => new RegExp(`\\b${name}_${upper(field)}\\b`).test(sources[op.kernel])),
          `${op.name}.${field}`,
        ).toBe(true)
      if (op.group !== 'other') expect(sources[op.kernel]).toContain(`function ${op.name}(`)
    }
    expect(new Set(OPS.map((op) => op.code)).size).toBe(OPS.length)
  })
})
describe('the writer of ops', () => {
  const reads = OPS.filter((op) => !op.tail)
  it('writes each op with its code, its size and its words (property)', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: reads.length - 1 }), { minLength: 1, maxLength: 40 }), (which) => {
        const w = new OpWriter(new ArrayBuffer(64))
        const starts = which.map((k, n) => {
          const op = reads[k]
          const values = Object.fromEntries(
            Object.entries(op.words.fields).map(([name, f], i) => [
              name,
              f.count === 1 ? n + i : Array.from({ length: f.count }, () => n + i),
            ]),
          )
          return w.write(op, values as never, n, { value: 0.5, vary: 0.25 })
        })
        const f = new Float32Array(w.words.buffer)
        which.forEach((k, n) => {
          const op = reads[k]
          expect([w.words[starts[n]], w.words[starts[n] + 1], w.words[starts[n] + 4]]).toEqual([op.code, op.words.bytes, n])
          expect([f[starts[n] + 2], f[starts[n] + 3]]).toEqual([0.5, 0.25])
          Object.entries(op.words.fields).forEach(([name, field], i) => {
            const at = w.wordOf(starts[n], op, name)
            expect(field.type === 'f32' ? f[at] : w.words[at]).toBe(n + i)
          })
        })
        expect(w.count).toBe(which.length)
      }),
    )
  })
})
