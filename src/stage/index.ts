export * from './adapt'
export * from './camera'
export * from './messages'
export * from './stage'
