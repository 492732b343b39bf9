export * from './problem'
export * from './taskFailure'
