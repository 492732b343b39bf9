export * from './request'
export * from './write'
export * from './writeFrames'
export * from './zipStream'
