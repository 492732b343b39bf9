export { LiveHandoff, liveHandoff, type LiveFile } from './liveHandoff'
export { newLiveThreads, startLiveThreads } from './liveThreads'
export * from './tokens'
