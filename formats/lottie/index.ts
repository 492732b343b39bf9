export * from './writeLottie'
export * from './readLottie'
