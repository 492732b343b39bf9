export { compared, delivered, type MattePicture } from './matteCompared'
