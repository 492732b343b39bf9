export * from './tukeyBiweight'
