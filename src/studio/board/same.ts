import type { GasDoc, ObjectDoc, SystemDoc } from '../../shot'

/**
 * Whether two elements are the same in some of their parts: a column that shows only those need not be rendered again. Anything else it is
 * given must be the same as well.
 */
const sameBy =
  <N extends string, E extends { id: string }>(name: N) =>
  <P extends Record<N, E>>(...parts: (keyof E)[]) =>
  (a: P, b: P): boolean =>
    a[name].id === b[name].id &&
    parts.every((k) => a[name][k] === b[name][k]) &&
    (Object.keys(b) as (keyof P)[]).every((k) => k === name || a[k] === b[k])
export const sameObject = sameBy<'object', ObjectDoc>('object')
export const sameSystem = sameBy<'system', SystemDoc>('system')
export const sameGas = sameBy<'gas', GasDoc>('gas')
