export * from './largestDifference'
export * from './numberBetween'
export * from './numbersFrom'
