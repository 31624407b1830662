import { type Fields, type Layout, layout, OP } from '../memory'

/** The code of the end of limits; also what becomes of an op whose target is not there, so that limits before it do not reach on. */
export const END_LIMITS_CODE = 15

/**
 * One kind of op: what kernels do to particles in a substep, one after another. The declaration makes both sides: the encoder's words here,
 * and in the kernels the code, the offsets and the call (scripts/kernelTables.mjs).
 */
export interface Op<F extends Fields = Fields> {
  /** As the kernel is called: `vortex` is OP_VORTEX there, and its word `axis` is VORTEX_AXIS. */
  readonly name: string
  /** Stored in buffers only, never in files; each has its own. */
  readonly code: number
  /** Its operands, from the start of the op. */
  readonly words: Layout<F>
  /** The numbers behind its operands, as many as it likes. */
  readonly tail: boolean
  /**
   * `force` changes velocities by its share, `limit` weighs the forces up to the end of the limits; `other` ops are called by the step itself.
   * `when` leaves a row of moments for turns: (columns, op, begin, n, row, scratch).
   * Forces: (columns, op, begin, n, shares, dts, scratch). Limits: (columns, op, begin, n, amounts, scratch).
   */
  readonly group: 'force' | 'limit' | 'when' | 'other'
  /** The file of the kernel that it calls. */
  readonly kernel: string
  /** Heavy particles are moved less. */
  readonly byMass: boolean
  /** The same for all particles wherever they are: the kernel takes one share for a whole block, and, behind the others, a flag that says so. */
  readonly uniform: boolean
  /**
   * Moves particles to where they should be at the end of the substep, by the velocity that gets them there: it sees their positions at the
   * start, and that velocity alone moves them.
   */
  readonly places: boolean
  /** May fill velocity volumes. */
  readonly flows: boolean
}
export function defineOp<const F extends Fields>(
  o: Pick<Op, 'name' | 'code' | 'group' | 'kernel'> & Partial<Pick<Op, 'tail' | 'byMass' | 'uniform' | 'places' | 'flows'>> & { words: F },
): Op<F> {
  return { tail: false, byMass: false, uniform: false, places: false, flows: false, ...o, words: layout(o.words, { from: OP.bytes }) }
}
