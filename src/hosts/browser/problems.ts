import { builtKey } from '../../acts'
import type { SimStatus } from '../../protocol'
import type { ObjectDoc, Shot } from '../../shot'

type Problems = SimStatus['problems']
/** What letters and drawings lack. */
function textProblem(o: ObjectDoc, files: ReadonlyMap<string, string>, letters: ReadonlyMap<string, string>): Problems {
  const key = builtKey(o.shape)
  if (!key) return []
  const bad = files.get(key)
  const missing = letters.get(key)
  return bad
    ? [{ element: o.id, message: `it cannot be built: ${bad}` }]
    : missing
      ? [{ element: o.id, message: `its font has no ${missing}; an empty box stands there: choose another font or other letters` }]
      : []
}
/**
 * All that a shot lacks: what making it ready found, and what is wrong with its files. `files`: why each cannot be used, by its hash or the key of
 * what is built of it; `letters`: those that its font has not.
 */
export function allProblems(
  shot: Shot,
  found: Problems,
  files: ReadonlyMap<string, string>,
  letters: ReadonlyMap<string, string>,
): Problems {
  const broken = (o: ObjectDoc) => (o.shape.kind === 'mesh' ? files.get(o.shape.asset) : undefined)
  return [
    // A mesh that cannot be read is said once, with the reason.
    ...found.filter((p) => !shot.objects.some((o) => o.id === p.element && broken(o) !== undefined)),
    ...shot.objects.flatMap((o) => textProblem(o, files, letters)),
    ...shot.objects.flatMap((o) => {
      const why = broken(o)
      return why === undefined ? [] : [{ element: o.id, message: `its mesh cannot be used: ${why}` }]
    }),
    ...shot.lights.flatMap((l) =>
      l.kind === 'around' && l.asset && files.has(l.asset)
        ? [{ element: l.id, message: `its picture of light cannot be used: ${files.get(l.asset)}` }]
        : [],
    ),
  ]
}
