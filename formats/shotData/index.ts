export { readShotData, SHOT_DATA_FORMAT, shotDataText, type ShotData } from './shotData'
export { shotDataSchema } from './jsonSchema'
