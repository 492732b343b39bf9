export * from './away'
export * from './entities'
export * from './insertRows'
export * from './orm'
