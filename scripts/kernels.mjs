// Builds the WebAssembly kernels twice: over shared memory for teams of threads, and over plain memory for pages
// without cross-origin isolation. Output: public/kernels.wasm and public/kernels-single.wasm.

import { spawn } from 'node:child_process'
import { mkdirSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import asc from 'assemblyscript/asc'
import { writeKernelTables } from './kernelTables.mjs'

if (!process.argv[2]) await writeKernelTables()
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
const variants = {
  'public/kernels.wasm': ['--sharedMemory', '--maximumMemory', '65536'],
  'public/kernels-single.wasm': [],
}
async function compile(out) {
  const { error, stderr } = await asc.main([...common, ...variants[out], '-o', out])
  const text = stderr.toString()
  if (text) console.error(text)
  if (!error) return
  console.error(`kernels: ${error.message}`)
  process.exit(1)
}
// One of them in a process of its own: each takes a core for a while.
if (process.argv[2]) await compile(process.argv[2])
else {
  const [first, second] = Object.keys(variants)
  const beside = spawn(process.execPath, [fileURLToPath(import.meta.url), second], { stdio: 'inherit' })
  const ended = new Promise((done) => {
    beside.once('exit', (code) => done(code ?? 1))
    beside.once('error', () => done(1))
  })
  await compile(first)
  if ((await ended) !== 0) process.exit(1)
}
