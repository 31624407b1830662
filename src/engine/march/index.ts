export { blackBodyColour, blackBodyXyz } from './blackBody'
export { type Flame, MARCH_SAMPLES, type MarchLight, type MarchLook, type MarchScene, type MarchView } from './look'
export { FLAMES_OUTSIDE, Marcher } from './marcher'
