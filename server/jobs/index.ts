export * from './jobs'
export * from './leases'
export * from './workers'
export * from './run'
