// Finding by words: every word of a query must be near to some word of a text. Typing errors are forgiven, more of them in longer words.

/** What answers less well than this share of the best answer is left out. */
const FAR_BEHIND = 0.4
/** How many letters a word may be wrong by. */
const forgiven = (word: string): number => (word.length < 5 ? 0 : word.length < 9 ? 1 : 2)
const wordsOf = (text: string): string[] =>
  text
    .toLowerCase()
    .normalize('NFD')
    .replace(/[\u0300-\u036f]/g, '')
    .split(/[^a-z0-9²³/]+/)
    .filter(Boolean)

/**
 * Whether two words are one but for `max` letters that were missed, added, wrong or swapped (optimal string alignment). What follows in
 * `long` does not count: a query is typed from its beginning.
 */
export function isNear(typed: string, long: string, max: number): boolean {
  if (Math.abs(typed.length - long.length) > max && long.length < typed.length) return false
  let before: number[] = []
  let last = Array.from({ length: long.length + 1 }, (_, j) => j)
  for (let i = 1; i <= typed.length; i++) {
    const row = [i]
    for (let j = 1; j <= long.length; j++) {
      const cost = typed[i - 1] === long[j - 1] ? 0 : 1
      let v = Math.min(last[j] + 1, row[j - 1] + 1, last[j - 1] + cost)
      if (i > 1 && j > 1 && typed[i - 1] === long[j - 2] && typed[i - 2] === long[j - 1]) v = Math.min(v, before[j - 2] + 1)
      row.push(v)
    }
    before = last
    last = row
  }
  return Math.min(...last) <= max
}
/** How well a word of a query fits a word of a text: 1 the same, less as a beginning, a part, or with errors; 0 not at all. */
function fit(typed: string, word: string): number {
  if (word === typed) return 1
  if (word.startsWith(typed)) return 0.9
  // British and American spellings of the same.
  if (word.replace('our', 'or').startsWith(typed.replace('our', 'or'))) return 0.85
  if (typed.length > 2 && word.includes(typed)) return 0.6
  // Four letters in another order are one word; fewer are too like others.
  if (typed.length === 4 && word.length === 4 && [...typed].sort().join() === [...word].sort().join() && isNear(typed, word, 1)) return 0.4
  const max = forgiven(typed)
  return max > 0 && word.length >= typed.length - max && isNear(typed, word, max) ? 0.4 : 0
}
/**
 * How well a text answers a query, 0 to 1; 0 where a word of the query is not to be found. `texts` go from what names a thing to what
 * explains it; the first count most.
 */
export function answers(query: string, texts: readonly string[]): number {
  const typed = wordsOf(query)
  if (!typed.length) return 1
  const lists = texts.map(wordsOf)
  let sum = 0
  for (const t of typed) {
    let best = 0
    lists.forEach((words, level) => {
      for (const w of words) best = Math.max(best, fit(t, w) * 0.7 ** level)
    })
    if (best === 0) return 0
    sum += best
  }
  // What is called just so comes before what has more in its name.
  return (sum / typed.length) * (1 - Math.min(0.1, 0.01 * Math.max(0, (lists[0]?.length ?? 0) - typed.length)))
}

/** The best answers among things, the best first; what is far behind the best is none. */
export function best<T>(query: string, things: readonly T[], textsOf: (x: T) => readonly string[]): T[] {
  const scored = things.map((x) => ({ x, score: answers(query, textsOf(x)) })).filter((r) => r.score > 0)
  const least = Math.max(0, ...scored.map((r) => r.score)) * FAR_BEHIND
  return scored
    .filter((r) => r.score >= least)
    .sort((a, b) => b.score - a.score)
    .map((r) => r.x)
}
