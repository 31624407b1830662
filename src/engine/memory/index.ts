export { Arena } from './arena'
export { ASK, ASK_STEP, SORT_BITS } from './askLayout'
export { Block } from './block'
export {
  COLUMNS,
  CORE_COLUMNS,
  type ColumnName,
  DESCENT_COLUMNS,
  HOLD_COLUMNS,
  MEET_COLUMNS,
  STICK_COLUMNS,
  TOUCH_COLUMNS,
  TURN_COLUMNS,
  WORD_COLUMNS,
} from './columnNames'
export { Columns } from './columns'
export { MemoryRefused, Stopped } from './errors'
export { FOG, FOG_LIGHT, FOG_LOOK, FOG_MOST_LIGHTS, FOG_PATCH_RAYS } from './fogLayout'
export {
  DETAIL,
  DETAIL_NOISE_NODES,
  DETAIL_ROOM_HEAD,
  FEED,
  FEED_MODE,
  GAS,
  GAS_STEP,
  LEVEL,
  SCALAR_COUNT,
  TILE,
  TILE_GRID_BYTES,
  TILE_GRIDS,
} from './gasLayout'
export { type Allocator, Heap } from './heap'
export {
  ALL_PHASES,
  BIRTH,
  BIRTH_KIND,
  COLLIDER,
  CONTACT_MODES,
  CONTROL,
  DISTANCE,
  GRID,
  GRID_COLUMNS,
  HEAP_START,
  JOB,
  JOB_KIND,
  type JobKind,
  LEAF_BYTES,
  NEAREST,
  NODE_BYTES,
  OP,
  PAIR,
  PAIR_COLUMNS,
  PAIR_LISTED,
  PAIR_STEP,
  PASS,
  PASSES,
  POSE_PATH,
  SCRATCH,
  TREE,
  VOLUME,
} from './layout'
export { closestRow, LINK, LINK_PIECE, LINKS } from './linkLayout'
export { type Machine, runJob, wasStopped, workOn } from './machine'
export { BLUE_NOISE, CLOUD_LEAST, MARCH, MARCH_BALL, MARCH_LIGHT, MARCH_STEP, MARCH_WAYS } from './marchLayout'
export { pathWords } from './pathWords'
export { type Fields, f32, i32, type Layout, layout, u32, type Values, writeRecord } from './record'
export { SCREEN, SCREEN_CURVE, SCREEN_DITHER } from './screenLayout'
export { helperLoop, type KernelExports, type KernelHost, requestStop, sharedTeam, singleTeam, type Team } from './team'
export {
  NO_TRAIL,
  STRIP_PIECE,
  STRIP_WORDS,
  TRAIL,
  TRAIL_FRESH,
  TRAIL_LINE,
  TRAIL_MORE,
  TRAIL_ROWS,
  TRAIL_STEP_POINTS,
  TRAILS,
} from './trailLayout'
export {
  LUMPS_ACROSS,
  LUMPS_SIDE,
  LUMPS_SLOPE,
  TUFT,
  TUFT_LIGHT,
  TUFT_SLICES,
  TUFT_STEP,
  TUFT_TILE_X,
  TUFT_TILE_Y,
  TUFTS,
  UNDER,
} from './tuftLayout'
