/** The columns of a particle system. Kernels find them through a table of pointers, in this order; 0 says that there is none. */
export const COLUMNS = [
  'px',
  'py',
  'pz',
  'vx',
  'vy',
  'vz',
  'age',
  'life',
  'seed',
  'id',
  'phase',
  'phaseStart',
  'hits',
  // Where it was emitted.
  'sx',
  'sy',
  'sz',
  'dead',
  'mass',
  // A factor on its size less one, by turns.
  'size',
  // Of one that was shed, copied or taken over: the id of the one that it comes from, in its system.
  'parent',
  // The surface it keeps a place on (hash of the object), on which triangle (or the endless plane), and where on it.
  'held',
  'triangle',
  'au',
  'av',
  // What it sticks to: hash of the collider, or 0.
  'stuck',
  // Where it was as the substep began.
  'ox',
  'oy',
  'oz',
  // Its last contact: where, at which age, with what (hash), how fast towards it.
  'tx',
  'ty',
  'tz',
  'touchedAge',
  'touched',
  'touchSpeed',
  // Its orientation, a unit quaternion (all zero: none yet), and its spin in radians a second.
  'qx',
  'qy',
  'qz',
  'qw',
  'wx',
  'wy',
  'wz',
  // Whether its way in this substep was not straight: it met a collider, or began within it.
  'bent',
  // Which of its system's turns copies it or takes it away, by its place among them from 1 on; 0 none.
  'turned',
  // How many particles it descends from: 0 for one that was emitted.
  'generation',
  // How far what it chases is, m, as the substep began; 0: nothing yet in this phase.
  'targetFar',
  // The phase that it was in before.
  'phaseFrom',
  // The system of its parent (hash); 0: it was emitted.
  'parentSystem',
  // The colour that it took over when it was shed, as tintOf packs it.
  'tint',
  // The factor on its contact radius in this substep.
  'girth',
] as const
export type ColumnName = (typeof COLUMNS)[number]
/** Columns that every system has; the others are allocated when an act of the system declares them. */
export const CORE_COLUMNS = COLUMNS.slice(0, 17)
export const WORD_COLUMNS: ReadonlySet<ColumnName> = new Set([
  'seed',
  'id',
  'phase',
  'hits',
  'dead',
  'parent',
  'held',
  'triangle',
  'stuck',
  'touched',
  'bent',
  'turned',
  'generation',
  'phaseFrom',
  'parentSystem',
  'tint',
])
/** What a particle that keeps a place on a surface needs, one that sticks, one that meets its like, and the record of a last contact. */
export const HOLD_COLUMNS: ColumnName[] = ['held', 'triangle', 'au', 'av']
export const STICK_COLUMNS: ColumnName[] = [...HOLD_COLUMNS, 'stuck']
export const MEET_COLUMNS: ColumnName[] = ['ox', 'oy', 'oz', 'bent']
export const TOUCH_COLUMNS: ColumnName[] = ['tx', 'ty', 'tz', 'touchedAge', 'touched', 'touchSpeed']
/** Whom it comes from. */
export const DESCENT_COLUMNS: ColumnName[] = ['generation', 'parent', 'parentSystem']
/** Orientation and spin. */
export const TURN_COLUMNS: ColumnName[] = ['qx', 'qy', 'qz', 'qw', 'wx', 'wy', 'wz']
