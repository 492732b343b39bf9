export { PieceBuffer, type BoundaryPieces } from './boundaryPieces'
export { pushUnion, unionBoundary } from './unionBoundary'
