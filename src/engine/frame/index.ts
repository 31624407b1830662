export { aliveIn, type Frame, frameBytes, frameMark, noStats, type SystemStats } from './frame'
export { type Notice, Notices } from './notice'
export {
  ALL_POINT_COLUMNS,
  columnsOfPart,
  copyPart,
  type Part,
  type PartOf,
  type PlacePart,
  POINT_COLUMNS,
  type PointColumn,
  type PointsPart,
  partBytes,
  partOf,
  partsOf,
  pointColumn,
  unknownPart,
} from './parts'
