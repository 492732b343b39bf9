export * from './gate'
export * from './json'
