export * from './analysisTiles'
export * from './frameCache'
export * from './readAhead'
export * from './readStretches'
