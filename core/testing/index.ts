export * from './between'
