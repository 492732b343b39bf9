export * from './analysisFrame'
export * from './formatError'
export * from './tileBlock'
