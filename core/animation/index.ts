export * from './keys'
export * from './halfway'
export * from './onionTimes'
