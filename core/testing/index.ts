export * from './numberBetween'
export * from './numbersFrom'
