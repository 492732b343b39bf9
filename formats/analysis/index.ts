export * from './analysisFrame'
export * from './recutTiles'
export * from './tileBlock'
export * from './tiles'
