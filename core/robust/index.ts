export * from './tukeyBiweight'
export * from './median'
