export * from './analysisTiles'
export * from './frameCache'
export * from './readStretches'
