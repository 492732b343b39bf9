/** Pixels across a place: distances of their centres outside of the outline, their values, and where they are in the picture. */
export interface AcrossPixels {
  distances: Float64Array
  values: Float64Array
  columns: Int32Array
  rows: Int32Array
}
