export * from './edgeSpread'
export * from './featherForSoftness'
export * from './shutter'
export {
  ALONG,
  boxAround,
  softnessAlong,
  softnessOf,
  type EdgeFit,
  type EdgeMeasure,
  type EdgePlace,
  type LitChannels,
  type Profile,
  type Softness,
} from './softness'
export * from './softnessAtPoints'
