export * from './entities'
export * from './orm'
