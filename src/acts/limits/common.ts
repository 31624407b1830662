import { choice, number } from '../../shot'

/** Which side of a limit counts. */
export const sideParam = choice({ label: 'Acts', default: 'inside', options: [{ value: 'inside', label: 'only there' }, { value: 'outside', label: 'everywhere else' }], help: 'Where it is, or everywhere but there.' })
export const ONLY: Record<string, string> = { inside: 'Only', outside: 'Not' }
export const softParam = number({ label: 'Soft edge', unit: 'm', default: 0.2, min: 0, soft: [0, 2], animated: true, help: 'From nothing at the border to all of it this far inside.' })
