export * from './camera'
export * from './stage'
