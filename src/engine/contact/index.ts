export { ColliderRecords, type RecordNeeds } from './colliderRecords'
export { Pairs } from './pairs'
