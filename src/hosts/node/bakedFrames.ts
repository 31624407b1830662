import { closeSync, existsSync, fsyncSync, openSync, readFileSync, renameSync, writeSync } from 'node:fs'
import { join } from 'node:path'
import type { Frame } from '../../engine'
import { unpackFrame } from '../framePack'

/** Where a frame of a bake lies in its folder. */
export const bakedFile = (frame: number): string => `frames/${String(frame).padStart(4, '0')}.bake`
/** Puts a file there whole or not at all, also when the machine stops meanwhile. */
export function putWhole(path: string, parts: readonly Uint8Array[]): number {
  const part = `${path}.part`
  const to = openSync(part, 'w', 0o600)
  let bytes = 0
  try {
    for (const p of parts) for (let at = 0; at < p.byteLength; ) at += writeSync(to, p, at)
    for (const p of parts) bytes += p.byteLength
    fsyncSync(to)
  } finally {
    closeSync(to)
  }
  renameSync(part, path)
  return bytes
}
/** A frame of a bake; null where it is not there, or not whole. */
export async function bakedFrame(folder: string, frame: number): Promise<Frame | null> {
  const path = join(folder, bakedFile(frame))
  if (!existsSync(path)) return null
  const b = readFileSync(path)
  return unpackFrame(b.buffer.slice(b.byteOffset, b.byteOffset + b.byteLength) as ArrayBuffer, frame)
}
