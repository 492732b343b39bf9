export * from './edgeSpread'
export * from './featherForSoftness'
export type { EdgeFit } from './fitEdge'
export * from './shutter'
export {
  ALONG,
  boxAround,
  softnessAt,
  softnessOf,
  type EdgeMeasure,
  type EdgePlace,
  type Profile,
  type Softness,
} from './softness'
export * from './softnessAtPoints'
