export { PieceBuffer, type BoundaryPieces } from './boundaryPieces'
export { followingPieces } from './followingPieces'
export { pushUnion, unionBoundary } from './unionBoundary'
