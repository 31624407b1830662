import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
// @ts-expect-error: a plain script of the build; it has no types
import { unshared } from './unshared.mjs'

const kernels = readFileSync('public/kernels.wasm')
const started = (module: Uint8Array, memory: WebAssembly.Memory) =>
  new WebAssembly.Instance(new WebAssembly.Module(new Uint8Array(module)), { env: { memory, abort: () => {} } }).exports
const plain = () => new WebAssembly.Memory({ initial: 4 })
const shared = () => new WebAssembly.Memory({ initial: 4, maximum: 65536, shared: true })

describe('kernels over plain memory', () => {
  it('are those over shared memory, but for the memory they take', () => {
    const single = unshared(kernels)
    expect(() => started(kernels, plain())).toThrow(/memory/)
    expect(() => started(single, shared())).toThrow(/memory/)
    expect(Object.keys(started(single, plain()))).toEqual(Object.keys(started(kernels, shared())))
    expect(single.length).toBe(kernels.length - 3)
    expect(single.equals(readFileSync('public/kernels-single.wasm'))).toBe(true)
  })
  it('are refused where no memory is imported', () => {
    const empty = Buffer.from([0, 97, 115, 109, 1, 0, 0, 0])
    expect(() => unshared(empty)).toThrow('the module imports nothing')
    // One import: a function m.f of type 0.
    const types = [1, 4, 1, 0x60, 0, 0]
    expect(() => unshared(Buffer.from([...empty, ...types, 2, 7, 1, 1, 109, 1, 102, 0, 0]))).toThrow('the module imports no memory')
  })
})
