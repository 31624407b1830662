import { choice } from '../../shot'

/** Whether a condition counts where it is true, or where it is not. */
export const holdsParam = choice({
  label: 'Counts',
  default: 'true',
  options: [
    { value: 'true', label: 'when it is so' },
    { value: 'false', label: 'when it is not' },
  ],
  help: 'When it is so, or the other way round.',
})
export const joinParam = choice({
  label: 'Needs',
  default: 'all',
  options: [
    { value: 'all', label: 'all conditions' },
    { value: 'any', label: 'any condition' },
  ],
  help: 'Every condition, or one of them. Without conditions, all is true at once and any never.',
})
