import { defineOp, END_LIMITS_CODE } from './define'
import type { OpWriter } from './writer'

/** The limits before it have had their force. */
export const endLimitsOp = defineOp({ name: 'endLimits', code: END_LIMITS_CODE, group: 'other', kernel: 'index', words: {} })
export const encodeEndLimits = (w: OpWriter): void => void w.write(endLimitsOp, {})
