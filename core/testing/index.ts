export * from './between'
export * from './numbersFrom'
