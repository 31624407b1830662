export { GAS_GRIDS, Gas, type GasGrid, type GasState } from './gas'
export { gases } from './kind'
export { velocityOf } from './probe'
export { type Cells, cellsIn, mostCells } from './window'
