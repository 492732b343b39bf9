export * from './inspect'
export * from './decode'
export * from './frameFiles'
export * from './ingest'
