export * from './trackData'
export * from './text'
