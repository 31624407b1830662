export { thrownObjects } from './kind'
export { ThrownObject } from './thrownObject'
