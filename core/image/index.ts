export * from './luma'
export * from './filters'
export * from './polygonMask'
export * from './structure'
