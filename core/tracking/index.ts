export * from './planarTracker'
export * from './runTrack'
