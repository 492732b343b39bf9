export * from './segment'
export * from './points'
export * from './movers'
export * from './objects'
