// The columns of a system: a table of pointers.

/** A whole column. */
// @ts-ignore: decorator
@inline export function column(columns: usize, c: i32): usize {
  return <usize>load<u32>(columns + ((<usize>c) << 2))
}
/** A column from a particle on. */
// @ts-ignore: decorator
@inline export function col(columns: usize, c: i32, begin: i32): usize {
  return <usize>load<u32>(columns + ((<usize>c) << 2)) + ((<usize>begin) << 2)
}
/** A word of a column, so many bytes from its start. */
// @ts-ignore: decorator
@inline export function wordAt(columns: usize, c: i32, at: usize): usize {
  return <usize>load<u32>(columns + ((<usize>c) << 2)) + at
}
