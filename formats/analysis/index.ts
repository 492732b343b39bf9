export * from './analysisFrame'
export * from './tileBlock'
