import { choice } from '../../shot'

/** Which grid of the gas drives it. */
export const byTone = (given: 'density' | 'temperature' | 'flame', help: string) =>
  choice({
    label: 'By',
    default: given,
    options: [
      { value: 'density', label: 'density' },
      { value: 'temperature', label: 'temperature' },
      { value: 'flame', label: 'flame', help: 'What burns at this moment.' },
    ],
    help,
  })
