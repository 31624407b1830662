import type { Bind } from './bind'
import { FieldRow } from './FieldRow'
import { Modulators } from './Modulators'

/** A parameter with everything that moves it. */
export function ParamRow({ bind, wide }: { bind: Bind; wide?: boolean }) {
  return (
    <>
      <FieldRow bind={bind} wide={wide} />
      <Modulators bind={bind} />
    </>
  )
}
