export * from './analysisFrame'
