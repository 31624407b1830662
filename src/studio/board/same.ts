import type { ObjectDoc } from '../../shot'

/** Whether two objects are the same in some of their parts: a column that shows only those need not be drawn anew. Anything else it is given must be the same as well. */
export const sameObject = <P extends { object: ObjectDoc }>(...parts: (keyof ObjectDoc)[]) => (a: P, b: P): boolean =>
  a.object.id === b.object.id && parts.every((k) => a.object[k] === b.object[k]) && (Object.keys(b) as (keyof P)[]).every((k) => k === 'object' || a[k] === b[k])
