export * from './request'
export * from './write'
export * from './zipStream'
