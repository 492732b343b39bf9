export { compared, delivered, type MattePicture } from './matteCompared'
export { deliveredMatte, type DeliveredPlace, type MattePixels } from './deliveredMatte'
