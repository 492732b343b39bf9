export * from './notifications'
export * from './shotFeed'
