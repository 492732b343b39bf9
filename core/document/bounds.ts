/**
 * The sane bounds of what a document may hold: one table, for everything that is stored or sent. Far beyond any shot, and
 * near enough that nothing that lies within can stop a client from opening the document.
 */
export const BOUNDS = {
  /** Pixels, and whatever else is a plain number: a 16K plate is 1.6e4 wide. */
  number: 1e9,
  /** Numbers of a track's samples: a stamp has 32 bits, and matrices of a track under perspective may be large. */
  sample: 1e12,
  /** Frame numbers and times, both ways: at 24 fps five days. */
  frame: 1e7,
  /** Frames from the first to the last of a stretch: at 24 fps more than an hour. */
  stretch: 100_000,
  /** Keys of one object, points of one shape. */
  keys: 20_000,
  points: 4096,
  /** Pieces of one object's lists: outlines, leave-outs, references, Bridges, pairs of a Seam. */
  list: 10_000,
  /** Place in a log, count of a client's edits: what an integer column holds. */
  sequence: 2_147_483_647,
  /** Letters. */
  label: 200,
  /** Patches of one gesture. */
  patches: 100_000,
} as const
