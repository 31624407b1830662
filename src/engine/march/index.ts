export { blackBodyColour, blackBodyXyz } from './blackBody'
export { blueNoise } from './blueNoise'
export { CLOUD_BALL, type Cloud } from './cloud'
export { type FogFront, type FogLook, FogMaker } from './fog'
export {
  type Flame,
  type LightMap,
  MARCH_SAMPLES,
  type MarchFront,
  type MarchLeft,
  type MarchLight,
  type MarchLook,
  type MarchScene,
  type MarchTextures,
  type MarchView,
} from './look'
export { FLAMES_OUTSIDE, Marcher } from './marcher'
export { ScreenMaker, type ScreenTone } from './screen'
export { type SeenTufts, type TuftCells, TuftPainter, type TuftView, type UnderTufts } from './tufts'
