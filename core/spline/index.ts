export * from './cubic'
export * from './fitFreehand'
export * from './rational'
export * from './leastSquaresCubic'
