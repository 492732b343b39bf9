export * from './featherForSoftness'
export * from './fitEdge'
export * from './softness'
export { edgeSpread } from './edgeSpread'
