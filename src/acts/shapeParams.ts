import { number } from '../shot'

/** A length of a shape that stays as it is while the shot runs. */
export const fixedLength = (label: string, d: number, help: string, min = 0.0001) =>
  number({ label, unit: 'm', default: d, min, max: 10000, soft: [0.01, 4], changes: 'simulation', help })
