export * from './halfFloat'
export * from './writeExr'
