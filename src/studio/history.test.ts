import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { begin, change, redo, type Timeline, undo } from './history'

interface Doc {
  list: number[]
  map: Record<string, { n: number }>
  name: string
}
const start = (): Doc => ({ list: [1, 2], map: { a: { n: 0 } }, name: '' })
type Edit = { kind: 'push' | 'drop' | 'set' | 'put' | 'name'; n: number; gesture: string | null }
const apply = (e: Edit) => (d: Doc) => {
  if (e.kind === 'push') d.list.push(e.n)
  else if (e.kind === 'drop') d.list.splice(e.n % Math.max(1, d.list.length), 1)
  else if (e.kind === 'set' && d.list.length) d.list[e.n % d.list.length] = e.n
  else if (e.kind === 'put') d.map[`k${e.n % 4}`] = { n: e.n }
  else if (e.kind === 'name') d.name = `n${e.n}`
}
const edits = fc.array(
  fc.record({
    kind: fc.constantFrom('push', 'drop', 'set', 'put', 'name'),
    n: fc.nat({ max: 30 }),
    gesture: fc.constantFrom(null, null, 'drag-1', 'drag-2'),
  }) as fc.Arbitrary<Edit>,
  { maxLength: 40 },
)

describe('undo and redo', () => {
  it('go back to every earlier state and forth again, exactly (property against whole copies)', () => {
    fc.assert(
      fc.property(edits, (script) => {
        let line: Timeline<Doc> = begin(start())
        // A naive history: a whole copy before each step.
        const copies: Doc[] = [structuredClone(line.now)]
        let last: string | null = null
        for (const e of script) {
          const before = line
          line = change(line, e.kind, apply(e), e.gesture)
          if (line === before) continue
          if (e.gesture === null || e.gesture !== last || line.past.length === copies.length) copies.push(structuredClone(line.now))
          else copies[copies.length - 1] = structuredClone(line.now)
          last = e.gesture
        }
        expect(line.past.length).toBe(copies.length - 1)
        for (let i = copies.length - 1; i > 0; i--) {
          expect(line.now).toEqual(copies[i])
          line = undo(line)
        }
        expect(line.now).toEqual(start())
        expect(undo(line)).toBe(line)
        for (let i = 1; i < copies.length; i++) {
          line = redo(line)
          expect(line.now).toEqual(copies[i])
        }
        expect(redo(line)).toBe(line)
      }),
      { seed: 3 },
    )
  })
  it('one gesture is one step, and another gesture another', () => {
    let line = begin(start())
    for (const n of [3, 4, 5]) line = change(line, 'drag', (d) => void (d.list[0] = n), 'g1')
    line = change(line, 'drag', (d) => void (d.list[0] = 9), 'g2')
    expect(line.past).toHaveLength(2)
    expect(undo(line).now.list[0]).toBe(5)
    expect(undo(undo(line)).now.list[0]).toBe(1)
  })
  it('a change after undo forgets what was ahead, and does not join the gesture from before', () => {
    let line = change(begin(start()), 'a', (d) => void (d.name = 'x'), 'g')
    line = undo(line)
    line = change(line, 'b', (d) => void (d.name = 'y'), 'g')
    expect(line.future).toEqual([])
    expect(undo(line).now.name).toBe('')
    let again = redo(undo(change(begin(start()), 'a', (d) => void (d.name = 'x'), 'g')))
    again = change(again, 'c', (d) => void (d.name = 'z'), 'g')
    expect(again.past).toHaveLength(2)
  })
  it('a change that changes nothing leaves no step', () => {
    const line = begin(start())
    expect(change(line, 'nothing', (d) => void (d.name = ''))).toBe(line)
  })
  it('keeps 500 steps', () => {
    let line = begin(start())
    for (let n = 0; n < 620; n++) line = change(line, 'n', (d) => void (d.name = String(n)))
    expect(line.past).toHaveLength(500)
    for (let i = 0; i < 500; i++) line = undo(line)
    expect(line.now.name).toBe('119')
  })
})
