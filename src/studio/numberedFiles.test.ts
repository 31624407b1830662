import { expect, it } from 'vitest'
import { holesIn, listed, withoutHoles } from './numberedFiles'

const names = (...numbers: number[]) => numbers.map((n) => ({ name: `puff_v2.${String(n).padStart(4, '0')}.vdb` }))
it('finds the numbers that a row of files lacks, and puts the file before in their place', () => {
  expect(holesIn(names(3, 4, 5).map((f) => f.name))).toEqual([])
  expect(holesIn(names(9, 3, 4, 7).map((f) => f.name))).toEqual([5, 6, 8])
  expect(withoutHoles(names(3, 4, 7)).map((f) => Number(/(\d+)\.vdb/.exec(f.name)?.[1]))).toEqual([3, 4, 4, 4, 7])
  expect(withoutHoles(names(3, 4, 5))).toEqual(names(3, 4, 5))
})
it('lists a few of them', () => {
  expect([[5], [5, 7], [5, 7, 8], [1, 2, 3, 4, 5, 6, 7]].map(listed)).toEqual(['5', '5 and 7', '5, 7 and 8', '1, 2, 3, 4, 5 and 2 more'])
})
