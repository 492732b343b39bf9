export * from './entities'
export * from './insertRows'
export * from './orm'
