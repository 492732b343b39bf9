export * from './writeLottie'
