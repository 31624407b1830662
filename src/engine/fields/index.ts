export { Grid } from './grid'
export { Neighbourhood } from './neighbourhood'
export { Volumes } from './volumes'
