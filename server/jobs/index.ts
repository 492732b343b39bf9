export * from './queue'
export * from './jobs'
export * from './run'
