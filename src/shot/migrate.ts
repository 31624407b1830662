import { SHOT_VERSION } from './document'
import { toStandardTerms } from './renamed'

type Json = Record<string, unknown>
/** Step n turns a document of version n into one of version n + 1. Append only. */
const STEPS: Record<number, (doc: Json) => Json> = {
  // Controls, parents of objects, and the frame at which a shot opens.
  1: (doc) => ({
    ...doc,
    opens: null,
    controls: [],
    objects: Array.isArray(doc.objects) ? doc.objects.map((o) => (o && typeof o === 'object' ? { parent: null, ...o } : o)) : doc.objects,
  }),
  // Reshape steps and regions of objects, folders, a warm start: all empty.
  2: (doc) => ({
    ...doc,
    warm: 0,
    folders: [],
    systems: Array.isArray(doc.systems)
      ? doc.systems.map((s) =>
          s && typeof s === 'object'
            ? { endless: false, space: null, place: [0, 0, 0], rotate: [0, 0, 0], scale: [1, 1, 1], copies: [], ...s }
            : s,
        )
      : doc.systems,
    objects: Array.isArray(doc.objects)
      ? doc.objects.map((o) => (o && typeof o === 'object' ? { reshape: [], copies: [], regions: [], shown: 'full', ...o } : o))
      : doc.objects,
  }),
  // Limits and shares of forces, mass and time of systems: the schema gives what is not there.
  3: (doc) => doc,
  // Thrown objects, velocity volumes, spin, flakes, limits by an object's shape: the schema gives what is not there.
  4: (doc) => doc,
  5: toStandardTerms,
  // Trails of objects: the schema gives what is not there.
  6: (doc) => doc,
  // Gases.
  7: (doc) => ({ gases: [], ...doc }),
  // Detail of gases, steps that are fixed, rooms that ride along: the schema gives what is not there.
  8: (doc) => doc,
  // Dyes of gases: the schema gives what is not there.
  9: (doc) => doc,
}

export type Migrated = { ok: true; doc: unknown; from: number } | { ok: false; problem: string }

/** Brings a document up to the version of this code. Never changes its argument. */
export function migrate(doc: unknown, steps: Record<number, (doc: Json) => Json> = STEPS, target: number = SHOT_VERSION): Migrated {
  if (typeof doc !== 'object' || doc === null || Array.isArray(doc))
    return { ok: false, problem: 'the document must be an object: a shot begins with { "version": … }' }
  const from = (doc as Json).version
  if (typeof from !== 'number' || !Number.isInteger(from) || from < 1)
    return { ok: false, problem: `version: must be a whole number from 1 to ${target}` }
  if (from > target)
    return { ok: false, problem: `version: ${from} is newer than this Fox Ember, which reads up to ${target}; update it to open this shot` }
  let current = structuredClone(doc) as Json
  for (let v = from; v < target; v++) {
    const step = steps[v]
    if (!step) throw new Error(`no migration from version ${v}`)
    current = { ...step(current), version: v + 1 }
  }
  return { ok: true, doc: current, from }
}
