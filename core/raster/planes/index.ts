export { fastestPlanes } from './fastestPlanes'
export { PlainPlanes } from './plainPlanes'
export { wasmPlanes } from './wasmPlanes'
export type { Plane, Planes } from './planes'
