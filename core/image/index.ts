export * from './luma'
