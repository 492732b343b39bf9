import type { Keying } from '@tender-lasso/core/edits'
import type { Patch, RotoDocument, Shape } from '@tender-lasso/core/document'
import type { Selection, ToolName } from '../../store'

/** A pointer event as tools see it: plate pixels of the present frame. */
export interface PointerInput {
  x: number
  y: number
  shift: boolean
  alt: boolean
  /** Ctrl, or Cmd. */
  mod: boolean
  /** Screen pixels per plate pixel, for distances that a hand can meet. */
  scale: number
  /** Milliseconds. */
  time: number
}

export interface ToolContext {
  document: RotoDocument
  frame: number
  selection: Selection
  /** The Subject that is worked on: a shape drawn with nothing selected is of a new Part of it; null: of a new Subject. */
  subjectId: string | null
  /** Pivot of Turn; null: the middle of what is selected. */
  pivot: readonly [number, number] | null
  /** How edits make and change keys. */
  keying: Keying
  /** Plate pixels round the selected points within which others go along. */
  softness: number
  snaps: boolean
  /** Width of a new stroke, plate pixels. */
  strokeWidth: number
  /** Sides to which straight limbs are to bend, by the id of the lower bone: those that the artist turned over. */
  bendSides: Readonly<Record<string, 1 | -1>>
  /** Name of what the joints tool makes. */
  rigPlan: string
  /** What a drawn shape does to those of its Part below it. */
  nextOperation: Shape['operation']
}

/** What the viewer draws for a gesture under way, in plate pixels. */
export interface ToolSketch {
  lines: { points: readonly number[]; isClosed: boolean }[]
  rings: readonly (readonly [number, number])[]
  /** Short lines with grips at both ends, across an outline; never so short on the screen that a hand cannot meet them. */
  bars?: readonly { from: readonly [number, number]; to: readonly [number, number]; middle: readonly [number, number]; out: readonly [number, number] }[] // prettier-ignore
}

/** What a press would take hold of where the pointer is. */
export interface ToolHover {
  cursor: string
  words: string
  /** Shapes whose lines are shown as what will move. */
  shapes: readonly Shape[]
}

/** What a transition wants done. Everything but the next state may be absent. */
export interface ToolStep<State> {
  state: State
  /** Patches to show while the gesture lasts. */
  preview?: Patch[]
  /** The finished gesture; `reaches`: it went by the Reach, which then falls back to Here. */
  commit?: { label: string; patches: Patch[]; reaches?: boolean }
  selection?: Partial<Selection>
  pivot?: readonly [number, number]
  /**
   * What is done beyond an edit: corners looked for in a finished polygon, the proof grid laid on it, or widths taken from the
   * plate.
   */
  asks?: { kind: 'spread' | 'grid'; outline: readonly number[] } | { kind: 'widths' }
  say?: string
  /** What to say of a commit that is done. */
  tells?: (document: RotoDocument) => string
  /** The tool that comes to hand next. */
  tool?: ToolName
}

/** A tool is a small state machine: pure functions from state and event to the next state and what follows. */
export interface Tool<State> {
  idle: State
  down(state: State, input: PointerInput, context: ToolContext): ToolStep<State>
  move(state: State, input: PointerInput, context: ToolContext): ToolStep<State>
  up(state: State, input: PointerInput, context: ToolContext): ToolStep<State>
  /** Enter finishes, Escape gives up. */
  key?(state: State, key: 'Enter' | 'Escape', context: ToolContext): ToolStep<State>
  /** What is shown before a press. */
  hover?(state: State, input: PointerInput, context: ToolContext): ToolHover | null
  sketch?(state: State, context: ToolContext): ToolSketch | null
  /** What the artist is to do next, where that is not plain: below the picture, so that it covers nothing. */
  prompt?(state: State, context: ToolContext): string | null
  /** A word or two at the pointer: what the next click places. */
  tag?(state: State, context: ToolContext): string | null
  cursor: string
}
