import { fieldSet, hiddenOver, isHiddenOver, shownOver } from '@tender-lasso/core/edits'
import type { Part, Shape } from '@tender-lasso/core/document'
import { edit } from '../session'
import { DRAWING_TOOLS, say, selectedShapes, useShot, selectedPart } from '../store'
import { setEditing } from './keying'

const get = useShot.getState

/** Words for what a shape does to those below it. */
export const OPERATION_WORDS: Record<Shape['operation'], { label: string; sign: string; help: string }> = {
  add: { label: 'Add', sign: '+', help: 'adds to the shapes below' },
  subtract: { label: 'Subtract', sign: '−', help: 'takes away from the shapes below: a hole' },
  intersect: { label: 'Intersect', sign: '∩', help: 'keeps of the shapes below what lies inside' },
  difference: { label: 'Difference', sign: '≠', help: 'keeps what lies in one of both only' },
}

/** What shapes do to those of their Part that lie below them. */
export function setOperation(shapes: readonly Shape[], operation: Shape['operation']) {
  const patches = shapes
    .filter((shape) => shape.operation !== operation)
    .map((shape) => fieldSet(shape, 'operation', operation))
  if (patches.length) edit(`${OPERATION_WORDS[operation].label.toLowerCase()} ${namesOf(shapes)}`, patches)
}

/** With a drawing tool in the hand the next shape is a hole, or is none; else the selected shapes become holes, or add again. */
export function toggleHole() {
  const { tool, editing } = get()
  if (DRAWING_TOOLS.has(tool)) {
    const nextOperation = editing.nextOperation === 'add' ? 'subtract' : 'add'
    setEditing({ nextOperation })
    return say(
      'said',
      nextOperation === 'add' ? 'The next shape adds' : 'The next shape is a hole in the selected Part',
    )
  }
  const shapes = selectedShapes()
  if (shapes.length === 0) return say('doubtful', 'Select shapes, or take a drawing tool, to make a hole')
  setOperation(shapes, shapes.every(({ operation }) => operation === 'subtract') ? 'add' : 'subtract')
}

/** Hides what is selected on the marked stretch, or on this frame where none is marked; hidden there already, it is shown. */
export function toggleHidden() {
  const { frame, range } = get()
  const objects = selectedObjects()
  if (objects.length === 0) return say('doubtful', 'Select a Part or shapes to hide them on a stretch')
  const stretch = range ?? [frame, frame]
  const isShownAgain = objects.every((object) => isHiddenOver(object, stretch))
  const patches = isShownAgain ? shownOver(objects, stretch) : hiddenOver(objects, stretch)
  const words = `${namesOf(objects)} ${isShownAgain ? 'shown' : 'hidden'} on ${stretchWords(stretch)}`
  if (edit(words, patches))
    say('said', isShownAgain ? words : `${words}: the matte is empty there, keys and motion go on`)
}

export const stretchWords = ([first, last]: readonly [number, number]) =>
  first === last ? String(first) : `${first} to ${last}`

function selectedObjects(): (Part | Shape)[] {
  const { document, selection } = get()
  if (selection.shapeIds.length) return selectedShapes()
  const part = selectedPart({ document, selection })
  return part ? [part] : []
}

const namesOf = (objects: readonly (Part | Shape)[]) =>
  objects.length === 1 ? objects[0]!.name : `${objects.length} shapes`
