import type { StripDraw } from '../../acts'
import { type StripsPart, stripColumn, stripOffsets, stripPoints, stripWords } from '../../engine'

export type Point = readonly [number, number, number]
/** Strips through points, from end to head, evenly along; `normals`: how their particles lay there. */
export function partOf(strips: readonly (readonly Point[])[], normals?: readonly (readonly Point[])[]): StripsPart {
  const points = strips.reduce((n, s) => n + s.length, 0)
  const data = new ArrayBuffer(stripWords(strips.length, points, !!normals) * 4)
  const part: StripsPart = {
    kind: 'strips',
    element: 's',
    act: 'a',
    strips: strips.length,
    points,
    ...(normals ? { turned: true } : {}),
    data,
  }
  const offsets = stripOffsets(part)
  let at = 0
  strips.forEach((s, k) => {
    offsets[k] = at
    s.forEach((p, i) => {
      for (const [a, name] of (['px', 'py', 'pz'] as const).entries()) stripPoints(part, name)[at] = p[a]
      if (normals) for (const [a, name] of (['nx', 'ny', 'nz'] as const).entries()) stripPoints(part, name)[at] = normals[k][i][a]
      stripPoints(part, 'along')[at] = 1 - i / (s.length - 1)
      stripPoints(part, 'metres')[at++] = i
    })
    stripColumn(part, 'fade')[k] = 1
    stripColumn(part, 'seed')[k] = k + 1
  })
  offsets[strips.length] = points
  return part
}
export const flat = (v: number) => ({ points: [{ at: 0, v }] })
export const draw = (o: Partial<StripDraw> = {}): StripDraw => ({
  ...{
    as: 'line',
    width: 0.2,
    normal: [0, 1, 0],
    softness: 0,
    brightness: 1,
    opacity: 1,
    own: false,
    blend: 'add',
    pattern: null,
    head: null,
  },
  look: { id: '', name: '', colour: { stops: [{ at: 0, colour: [1, 1, 1] }] }, size: flat(1), opacity: flat(1) },
  ...o,
})
