export * from './keys'
export * from './motionSamples'
