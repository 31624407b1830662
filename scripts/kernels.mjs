// Builds the WebAssembly kernels over shared memory, for teams of threads, and makes of them those over plain memory, for pages
// without cross-origin isolation. Output: public/kernels.wasm and public/kernels-single.wasm.

import { mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import asc from 'assemblyscript/asc'
import { writeKernelTables } from './kernelTables.mjs'
import { unshared } from './unshared.mjs'

const SHARED = 'public/kernels.wasm'
await writeKernelTables()
mkdirSync('public', { recursive: true })
const { error, stderr } = await asc.main([
  'src/kernels/index.ts',
  '--runtime',
  'stub',
  '--importMemory',
  '--initialMemory',
  '4',
  '-O3',
  '--noAssert',
  '--converge',
  // Vectors go from kernel to kernel alone.
  '--disableWarning',
  '112',
  '--enable',
  'simd',
  '--enable',
  'threads',
  '--enable',
  'bulk-memory',
  '--sharedMemory',
  '--maximumMemory',
  '65536',
  '-o',
  SHARED,
])
const text = stderr.toString()
if (text) console.error(text)
if (error) {
  console.error(`kernels: ${error.message}`)
  process.exit(1)
}
writeFileSync('public/kernels-single.wasm', unshared(readFileSync(SHARED)))
