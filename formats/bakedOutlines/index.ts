export * from './schema'
export * from './writeBakedOutlines'
