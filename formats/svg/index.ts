export * from './readSvg'
export * from './writeSvg'
