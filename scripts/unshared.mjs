/** The unsigned LEB128 number at `at`, and where the next byte is. */
function number(bytes, at) {
  let value = 0
  for (let shift = 0; ; shift += 7) {
    const b = bytes[at++]
    value += (b & 127) * 2 ** shift
    if (b < 128) return [value, at]
  }
}
function encoded(value) {
  const out = []
  do out.push((value % 128) + (value > 127 ? 128 : 0))
  while ((value = Math.floor(value / 128)))
  return out
}
const IMPORTS = 2
const MEMORY = 2
/**
 * A WebAssembly module over shared memory, as one over plain memory: its imported memory is neither shared nor bounded. What the threads
 * proposal adds to the instructions holds for both, so nothing else changes. Throws where there is no such import.
 */
export function unshared(module) {
  for (let at = 8; at < module.length; ) {
    const [size, body] = number(module, at + 1)
    if (module[at] === IMPORTS) {
      const changed = imports(module.subarray(body, body + size))
      return Buffer.concat([module.subarray(0, at + 1), Buffer.from(encoded(changed.length)), changed, module.subarray(body + size)])
    }
    at = body + size
  }
  throw new Error('the module imports nothing')
}
function imports(section) {
  let [count, at] = number(section, 0)
  const skip = () => {
    const [n, from] = number(section, at)
    at = from + n
  }
  for (; count > 0; count--) {
    skip()
    skip()
    const kind = section[at++]
    if (kind === MEMORY) {
      const limits = at
      const [initial, behind] = number(section, at + 1)
      const [, end] = section[limits] & 1 ? number(section, behind) : [0, behind]
      return Buffer.concat([section.subarray(0, limits), Buffer.from([0, ...encoded(initial)]), section.subarray(end)])
    }
    if (kind === 0) skip()
    else throw new Error(`an import of kind ${kind} was not expected before the memory`)
  }
  throw new Error('the module imports no memory')
}
