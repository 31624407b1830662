// Builds the WebAssembly kernels twice: over shared memory for teams of threads, and over plain memory for pages
// without cross-origin isolation. Output: public/kernels.wasm and public/kernels-single.wasm.

import { mkdirSync } from 'node:fs'
import asc from 'assemblyscript/asc'
import { writeKernelTables } from './kernelTables.mjs'

await writeKernelTables()
mkdirSync('public', { recursive: true })
const common = [
  'src/kernels/index.ts',
  '--runtime',
  'stub',
  '--importMemory',
  '--initialMemory',
  '4',
  '-O3',
  '--noAssert',
  '--converge',
  '--enable',
  'simd',
  '--enable',
  'threads',
  '--enable',
  'bulk-memory',
]
for (const args of [
  [...common, '--sharedMemory', '--maximumMemory', '65536', '-o', 'public/kernels.wasm'],
  [...common, '-o', 'public/kernels-single.wasm'],
]) {
  const { error, stderr } = await asc.main(args)
  const text = stderr.toString()
  if (text) console.error(text)
  if (error) {
    console.error(`kernels: ${error.message}`)
    process.exit(1)
  }
}
