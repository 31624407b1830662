import type { ActDoc } from '../shot'
import type { Reading } from './define'
import { readerOf } from './reader'
import { actOf } from './registry'

/** What of the shot an act reads beside its own parameters, as it is set. */
export function readingOf(a: ActDoc): readonly Reading[] {
  const { reads } = actOf(a.kind)
  return (typeof reads === 'function' ? reads(readerOf(a)) : reads) ?? []
}
