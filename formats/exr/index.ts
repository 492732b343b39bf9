export * from './halfFloat'
export * from './writeExr'
export type { ExrSaid } from './attributes'
export { readExr, type ExrRead } from './readExr'
