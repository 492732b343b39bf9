import { allOf, type RotoDocument } from '@tender-lasso/core/document'

/** Choices of a list: a pivot held by each of the tracks, in their order. */
export const heldByTracks = (document: RotoDocument) =>
  allOf(document, 'track')
    .sort((a, b) => a.order - b.order)
    .map((track) => ({ value: track.id, label: `held by ${track.name}` }))
