export * from './head'
export * from './submit'
export * from './read'
