export * from './trackPattern'
export * from './trackPlan'
