import { type Frame, partsOf, pointColumn } from '../../engine'

/** Specks on the life strip: at most this many a system. */
const SPECKS = 600
/** How much of their life particles have lived, of each system by its id; of many only some. */
export function agesOf(frame: Frame): Record<string, Float32Array> {
  const ages: Record<string, Float32Array> = {}
  for (const p of partsOf(frame.parts, 'points')) {
    const age = pointColumn(p, 'age'),
      life = pointColumn(p, 'life')
    const every = Math.max(1, Math.ceil(p.count / SPECKS))
    const out = new Float32Array(Math.ceil(p.count / every))
    for (let i = 0, k = 0; i < p.count; i += every, k++) out[k] = life[i] > 0 ? Math.min(1, age[i] / life[i]) : 1
    ages[p.element] = out
  }
  return ages
}
