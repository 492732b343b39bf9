export * from './transferFunctions'
