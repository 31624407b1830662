export { type Grown, grow } from './grow'
export { growths } from './kind'
export { type SurfacePlace, WalkableMesh, Walker } from './walk'
