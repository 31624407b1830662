// Parts of the engine that are not for the floors above it, for its own tests.
export * from '..'
export { Columns } from '../columns'
