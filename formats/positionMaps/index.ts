export { positionMapsZip, type PositionMapsOfTrack } from './positionMapsZip'
