export * from './keys'
