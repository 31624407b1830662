import { choice } from '../../shot'

export const DYES = { dyeA: 'dye A', dyeB: 'dye B' } as const
/** The grids of a gas that may be seen, as the artist knows them. */
export const TONE_OPTIONS = [
  { value: 'density', label: 'density' },
  { value: 'temperature', label: 'temperature' },
  { value: 'flame', label: 'flame', help: 'What burns at this moment.' },
  { value: 'dyeA', label: DYES.dyeA, help: 'What sources bring of it.' },
  { value: 'dyeB', label: DYES.dyeB, help: 'What sources bring of it.' },
] as const
/** Which grid of the gas drives it. */
export const byTone = (given: 'density' | 'temperature' | 'flame', help: string) =>
  choice({
    label: 'By',
    default: given,
    options: TONE_OPTIONS,
    help,
  })
