export { History } from './history'
export { Run, type RunOptions } from './run'
