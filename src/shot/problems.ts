import type { z } from 'zod'

export interface Problem {
  /** As in systems[0].birth[0].rate; empty for the document itself. */
  path: string
  message: string
}
export const pathText = (path: readonly PropertyKey[]): string =>
  path.map((p, i) => (typeof p === 'number' ? `[${p}]` : i === 0 ? String(p) : `.${String(p)}`)).join('')

type Issue = z.core.$ZodIssue
/** Of a union's branches, the one the writer meant: the one that does not fail on the very type of the value. */
function flatten(issue: Issue, base: PropertyKey[]): Problem[] {
  const path = [...base, ...issue.path]
  if (issue.code === 'invalid_union' && issue.errors.length) {
    const deep = issue.errors.filter(
      (branch) => !branch.some((e) => e.path.length === 0 && (e.code === 'invalid_type' || e.code === 'invalid_union')),
    )
    const branch = (deep.length ? deep : issue.errors)[0]
    if (branch.length) return branch.flatMap((e) => flatten(e, path))
  }
  if (issue.code === 'unrecognized_keys') return issue.keys.map((k) => ({ path: pathText([...path, k]), message: 'is not a field here' }))
  return [{ path: pathText(path), message: issue.message }]
}
export const problemsOf = (error: z.ZodError): Problem[] => error.issues.flatMap((i) => flatten(i, []))
export const problemText = (p: Problem): string => (p.path ? `${p.path}: ${p.message}` : p.message)
