export { type AskedPlaces, Asker } from './asker'
