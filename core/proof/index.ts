export * from './matteError'
