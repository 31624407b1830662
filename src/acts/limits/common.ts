import { choice, number } from '../../shot'

/** Which side of a limit counts. */
export const sideParam = choice({
  label: 'Acts',
  default: 'inside',
  options: [
    { value: 'inside', label: 'only there' },
    { value: 'outside', label: 'everywhere else' },
  ],
  help: 'Where it is, or everywhere but there.',
})
export const ONLY: Record<string, string> = { inside: 'Only', outside: 'Not' }
/** How an age is measured, and the unit that its numbers have then. */
export const ageOfParam = choice({
  label: 'Measured',
  default: 'age',
  options: [
    { value: 'age', label: 'in seconds' },
    { value: 'life', label: 'as a part of life' },
  ],
  help: 'Seconds since birth, or per cent of the life.',
})
export const ageUnits = { param: 'of', units: { age: 's', life: '%' } } as const
export const softParam = number({
  label: 'Soft edge',
  unit: 'm',
  default: 0.2,
  min: 0,
  soft: [0, 2],
  animated: true,
  help: 'From nothing at the border to all of it this far inside.',
})
export const biasParam = number({
  label: 'Fullness',
  unit: '%',
  default: 50,
  min: 1,
  max: 99,
  soft: [5, 95],
  animated: true,
  help: 'Bends that rise: 50 leaves it as it is, more is fuller, less is hollower.',
})
