export * from './halfFloat'
export * from './writeExr'
export type { ExrSaid } from './attributes'
