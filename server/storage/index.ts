export * from './collect'
export * from './usage'
