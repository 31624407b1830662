import type { GasDoc, ToneDoc, Vec3 } from '../shot'

/** A straight factor over the values of a grid, up to its top. */
export const straightTone = (top: number, stops: readonly { at: number; colour: Vec3 }[]): ToneDoc => ({
  top,
  curve: {
    points: [
      { at: 0, v: 0 },
      { at: 1, v: 1 },
    ],
  },
  colour: { stops: [...stops] },
})
const SMOKE: Vec3 = [0.75, 0.75, 0.75]
const dyed = (colour: Vec3): ToneDoc =>
  straightTone(1, [
    { at: 0, colour: SMOKE },
    { at: 1, colour },
  ])
/** Of dyes that nobody has coloured yet: from plain smoke to a colour. */
export const dyeTones = (): Pick<GasDoc['tones'], 'dyeA' | 'dyeB'> => ({ dyeA: dyed([0.85, 0.16, 0.05]), dyeB: dyed([0.04, 0.32, 0.6]) })
