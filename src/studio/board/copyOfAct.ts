import { type ActDoc, newId, newSeed } from '../../shot'

/** With an id and a seed of its own, and its limits and conditions with theirs. */
export const copyOfAct = (a: ActDoc): ActDoc => ({
  ...structuredClone(a),
  id: newId(a.kind),
  seed: newSeed(),
  ...(a.limits ? { limits: a.limits.map(copyOfAct) } : {}),
  ...(a.when ? { when: a.when.map(copyOfAct) } : {}),
})
