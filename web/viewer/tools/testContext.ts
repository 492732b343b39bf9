import { KEY_HERE } from '@tender-lasso/core/edits'
import { type RotoDocument } from '@tender-lasso/core/document'
import { NOTHING_SELECTED } from '../../store'
import type { PointerInput, ToolContext } from './tool'

/** A tool's surroundings for tests: nothing selected, edits as they are made from the start. */
export function contextOf(document: RotoDocument, rest: Partial<ToolContext> = {}): ToolContext {
  return {
    document,
    frame: 1001,
    selection: NOTHING_SELECTED,
    subjectId: null,
    pivot: null,
    keying: KEY_HERE,
    softness: 0,
    snaps: false,
    strokeWidth: 10,
    bendSides: {},
    rigPlan: 'figure',
    nextOperation: 'add',
    ...rest,
  }
}

/** The pointer at a place of a plate that is shown as large as it is. */
export function pointerAt(x: number, y: number, keys: Partial<PointerInput> = {}): PointerInput {
  return { x, y, shift: false, alt: false, mod: false, scale: 1, time: 0, ...keys }
}
