const known = new WeakMap<object, boolean>()
const some = (x: unknown): boolean => Array.isArray(x) && x.length > 0

/** Whether any value within a part of a document changes over time, by keys or modulators. Parts that are not changed are asked once. */
export function moves(x: unknown): boolean {
  if (typeof x !== 'object' || x === null) return false
  let answer = known.get(x)
  if (answer === undefined) {
    const { keys, modulators } = x as { keys?: unknown; modulators?: unknown }
    answer = some(keys) || some(modulators) || Object.values(x).some(moves)
    known.set(x, answer)
  }
  return answer
}
