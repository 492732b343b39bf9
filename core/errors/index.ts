/** Error of the computation. `code` is stable and meant for programs, `message` for people. */
export class CoreError extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message)
    this.name = new.target.name
  }
}

/** A document or an edit is not what its schema or its invariants ask for. */
export class DocumentError extends CoreError {}

/** A track cannot be computed from what was given. */
export class TrackingError extends CoreError {}

/** Geometry that has no answer: a singular matrix, too few points. */
export class GeometryError extends CoreError {}
