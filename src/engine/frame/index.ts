export { type Apart, apart, apartWords } from './apart'
export { aliveIn, drawnIn, type Frame, frameBytes, frameMark, noStats, type SystemStats } from './frame'
export { partsLater } from './later'
export { type Notice, Notices } from './notice'
export {
  ALL_POINT_COLUMNS,
  columnsOfPart,
  copyPart,
  hasColumn,
  KEPT_POINT_COLUMNS,
  MORE_POINT_COLUMNS,
  type Part,
  type PartOf,
  type PlacePart,
  POINT_COLUMNS,
  type PointColumn,
  type PointsPart,
  partBytes,
  partKey,
  partOf,
  partsOf,
  pointColumn,
  STRIP_COLUMNS,
  STRIP_NORMAL_COLUMNS,
  STRIP_POINT_COLUMNS,
  type StripColumn,
  type StripPointColumn,
  type StripsPart,
  stripColumn,
  stripOffsets,
  stripPoints,
  stripTints,
  stripWords,
  unknownPart,
  VOLUME_GRIDS,
  VOLUME_TILE,
  type VolumeGrid,
  type VolumePart,
  volumeGrids,
  volumeHalves,
  volumeTile,
} from './parts'
export { tinted, tintOf } from './tint'
export { volumeAt } from './volumeAt'
export { halfTable, type VolumeCount, volumeCounts, volumeVoxels } from './volumeCounts'
