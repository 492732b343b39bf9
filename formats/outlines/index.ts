export * from './cubicOutline'
export * from './shot'
export * from './softness'
