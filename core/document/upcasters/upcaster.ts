import type { Fields } from './json'

/**
 * Lifts what was written by the version before `to`. It looks at nothing but what it is given, so that a log is read in
 * any order, and does the same with `before` and `after`. What it does not understand it leaves to the schema to refuse.
 */
export interface Upcaster {
  to: number
  object(object: Fields): Fields
  /** A patch that has been lifted may be several. */
  patch(patch: Fields): Fields[]
}
