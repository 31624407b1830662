import { readFileSync } from 'node:fs'
import type { Shot } from '../../shot'
import { checkShot } from '..'

/** A demo shot, checked; without the light of its file, which costs time to make ready and is tested apart. */
export function demoShot(): Shot {
  const r = checkShot(demoDocument())
  if (!r.ok) throw new Error(r.problems.map((p) => `${p.path}: ${p.message}`).join('\n'))
  return r.shot
}
export function demoDocument(): Record<string, unknown> {
  const doc = JSON.parse(readFileSync('demo/anvil-strike/shot.json', 'utf8'))
  const isAround = (l: { kind: string }) => l.kind === 'around'
  const files = doc.lights.filter(isAround).map((l: { asset: string }) => l.asset)
  doc.lights = doc.lights.filter((l: { kind: string }) => !isAround(l))
  doc.assets = doc.assets.filter((a: { hash: string }) => !files.includes(a.hash))
  return doc
}

/** Sets a value deep in a copy: change(shot, 'systems.0.birth.1.rate', 5). */
export function change<T>(doc: T, path: string, value: unknown): T {
  const copy = structuredClone(doc)
  const keys = path.split('.')
  let at = copy as Record<string, unknown>
  for (const k of keys.slice(0, -1)) at = at[k] as Record<string, unknown>
  const last = keys[keys.length - 1]
  if (value === undefined) delete at[last]
  else at[last] = value
  return copy
}
