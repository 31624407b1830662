// How a buffer that TypeScript and the kernels share is laid out: one declaration makes the offsets of both sides.

type Type = 'f32' | 'i32' | 'u32'
/** One field of a record: `count` words of one type, one behind the other. */
export interface Field<N extends number = number> {
  readonly type: Type
  readonly count: N
}
/** Of one word, or of several. */
interface MakeField {
  (): Field<1>
  <const N extends number>(count: N): Field<N>
}
const field = (type: Type) => ((count = 1) => ({ type, count })) as MakeField
export const f32 = field('f32')
export const i32 = field('i32')
/** Also pointers into the memory, in bytes. */
export const u32 = field('u32')

export type Fields = Record<string, Field>
/** What fills the fields: a number for one word, a list for several. */
export type Values<F extends Fields> = { [K in keyof F]: F[K]['count'] extends 1 ? number : ArrayLike<number> }
/** The byte offset of every field by its name, and the bytes of the whole record. */
export type Layout<F extends Fields> = { readonly [K in keyof F]: number } & { readonly bytes: number; readonly fields: F }

/** Lays fields out one behind the other from a byte offset on. `align`: the whole is a multiple of so many bytes. */
export function layout<const F extends Fields>(fields: F, { from = 0, align = 4 }: { from?: number; align?: number } = {}): Layout<F> {
  const offsets: Record<string, number> = {}
  let at = from
  for (const [name, { count }] of Object.entries(fields)) {
    offsets[name] = at
    at += count * 4
  }
  return { ...offsets, bytes: Math.ceil(at / align) * align, fields } as Layout<F>
}
/**
 * Writes fields of a record that begins at a byte of the view; those that are not named stay as they are. Several lists of them, where there are:
 * to make one object of others costs a microsecond for each of its numbers.
 */
export function writeRecord<F extends Fields>(view: DataView, at: number, record: Layout<F>, ...lists: Partial<Values<F>>[]): void {
  for (const values of lists) writeFields(view, at, record, values)
}
function writeFields<F extends Fields>(view: DataView, at: number, record: Layout<F>, values: Partial<Values<F>>): void {
  for (const name in values) {
    const value = values[name] as number | ArrayLike<number>
    const offset = at + (record[name] as number)
    const { type } = record.fields[name]
    if (typeof value === 'number') writeWord(view, offset, type, value)
    else for (let i = 0; i < value.length; i++) writeWord(view, offset + i * 4, type, value[i])
  }
}
function writeWord(view: DataView, at: number, type: Type, value: number): void {
  if (type === 'f32') view.setFloat32(at, value, true)
  else if (type === 'i32') view.setInt32(at, value, true)
  else view.setUint32(at, value, true)
}
