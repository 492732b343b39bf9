export * from './points'
export * from './movers'
export * from './objects'
