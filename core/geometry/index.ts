export * from './matrix3'
export * from './homographyFromPoints'
export * from './motionChannels'
export * from './polygon'
