import { choice } from '../../shot'

/** The grids of a gas that may be seen, as the artist knows them. */
export const TONE_OPTIONS = [
  { value: 'density', label: 'density' },
  { value: 'temperature', label: 'temperature' },
  { value: 'flame', label: 'flame', help: 'What burns at this moment.' },
  { value: 'dyeA', label: 'dye A', help: 'What sources bring of it.' },
  { value: 'dyeB', label: 'dye B', help: 'What sources bring of it.' },
] as const
export const toneLabel = (value: string): string => TONE_OPTIONS.find((o) => o.value === value)?.label ?? value
/** Which grid of the gas drives it. */
export const byTone = (given: 'density' | 'temperature' | 'flame', help: string) =>
  choice({
    label: 'By',
    default: given,
    options: TONE_OPTIONS,
    help,
  })
