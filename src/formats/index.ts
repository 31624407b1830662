export * from './font/text'
export * from './mesh'
export * from './result'
export * from './table/csv'
