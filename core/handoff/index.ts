export { fileNameOf, distinctNames, nameFrom, versionWord, type NameWords } from './names'
export { deliveredRange, mattesOf, picturesOf, type DeliveredMatte, type Picture } from './plan'
export { withoutSoftness } from './withoutSoftness'
export { objectsOfParts } from './objectsOfParts'
export type { Behind, DeliveryInfo, DeliveryState, HandoffStatus } from './deliveryInfo'
export { partsTouched } from './partsTouched'
export {
  coverageOfName,
  identifierOf,
  objectIdHeader,
  rankedCoverage,
  OBJECT_ID_LAYER,
  type RankedCoverage,
} from './objectIds'
export { frameInputs, frameView, type FrameView } from './frameInputs'
export {
  coveredByAny,
  LIVE_ENDINGS,
  liveOutput,
  type LiveEnding,
  type LiveFacts,
  type LiveManifest,
  type LiveToken,
} from './live'
export { showPicture, type Shown } from './show'
export { NOWHERE, positionMap, type PositionMapSettings } from './positionMap'
export { matteDifference, matteGrey, type MatteDifference } from './matteDifference'
