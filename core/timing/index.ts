export * from './frames'
export * from './shutter'
