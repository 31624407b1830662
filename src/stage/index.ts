export * from '../protocol'
export * from './adapt'
export * from './camera'
export * from './stage'
