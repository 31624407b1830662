export { GAS_GRIDS, Gas, type GasGrid, type GasState } from './gas'
export { gases } from './kind'
export { type Cells, cellsIn, mostCells } from './window'
