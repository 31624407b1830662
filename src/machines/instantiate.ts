import type { KernelExports } from '../engine'

/** 2 GB: what a run may take at most; it begins small and grows. */
export const WORLD_BYTES = 2 * 1024 * 1024 * 1024
export const MAX_PAGES = WORLD_BYTES / 65536

export async function instantiate(module: WebAssembly.Module, memory: WebAssembly.Memory): Promise<KernelExports> {
  const instance = await WebAssembly.instantiate(module, {
    env: {
      memory,
      abort: () => {
        throw new Error('a kernel broke an invariant')
      },
    },
  })
  return instance.exports as unknown as KernelExports
}
export const newMemory = (shared: boolean): WebAssembly.Memory => new WebAssembly.Memory({ initial: 16, maximum: MAX_PAGES, shared })
