export * from './readSvg'
