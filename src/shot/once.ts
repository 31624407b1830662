/** Made when it is first asked for, and kept. */
export function once<T>(make: () => T): () => T {
  let made: { value: T } | null = null
  return () => {
    made ??= { value: make() }
    return made.value
  }
}
