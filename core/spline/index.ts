export * from './cubic'
export * from './fitFreehand'
export * from './rational'
