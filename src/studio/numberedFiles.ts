/** Files in a row at most. */
const MOST_FILES = 5000
/** The numbers between the first and the last of numbered files that none of them has. */
export function holesIn(names: readonly string[]): number[] {
  const numbers = names.map((n) => Number(/(\d+)\.[^.]+$/.exec(n)?.[1] ?? Number.NaN)).sort((a, b) => a - b)
  const there = new Set(numbers)
  const holes: number[] = []
  for (let n = numbers[0]; n < numbers[numbers.length - 1] && holes.length < 1000; n++) if (!there.has(n)) holes.push(n)
  return holes
}
/** “5, 7 and 8”, of very many the first. */
export function listed(numbers: readonly number[]): string {
  const some = numbers.slice(0, 5).map(String)
  if (numbers.length > 5) return `${some.join(', ')} and ${numbers.length - 5} more`
  return some.length < 2 ? (some[0] ?? '') : `${some.slice(0, -1).join(', ')} and ${some[some.length - 1]}`
}
/** A file for each number from the first to the last: where one is missing the one before stands in for it. */
export function withoutHoles<T extends { name: string }>(files: readonly T[]): T[] {
  const holes = holesIn(files.map((f) => f.name))
  if (!holes.length) return [...files]
  const numbered = new Map(files.map((f) => [Number(/(\d+)\.[^.]+$/.exec(f.name)?.[1]), f]))
  const numbers = [...numbered.keys()].sort((a, b) => a - b)
  const out: T[] = []
  for (let n = numbers[0]; n <= numbers[numbers.length - 1] && n - numbers[0] < MOST_FILES; n++)
    out.push(numbered.get(n) ?? out[out.length - 1])
  return out
}
