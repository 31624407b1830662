export { type ForceOf, type Snapshot, snapshotBytes, World } from './world'
