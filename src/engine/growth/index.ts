export type { Grown } from './forest'
export { grow } from './grow'
export { growths } from './kind'
export { type SurfacePlace, WalkableMesh, Walker } from './walk'
