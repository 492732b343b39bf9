export * from './chosenShapes'
export * from './hitTest'
export * from './jointEndsOf'
export * from './selectedBox'
