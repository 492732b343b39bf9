export * from './keys'
export * from './halfway'
export * from './onionTimes'
export * from './turningKeys'
