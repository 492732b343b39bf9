export * from './cubicOutline'
export * from './orderOver'
export * from './shot'
export * from './softness'
