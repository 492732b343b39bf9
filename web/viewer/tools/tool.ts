import type { Patch, RotoDocument } from '@tender-lasso/core/document'
import type { Selection } from '../../state/shotStore'

/** A pointer event as tools see it: plate pixels of the present frame. */
export interface PointerInput {
  x: number
  y: number
  shift: boolean
  alt: boolean
  /** Screen pixels per plate pixel, for distances that a hand can meet. */
  scale: number
}

export interface ToolContext {
  document: RotoDocument
  frame: number
  selection: Selection
  /** Pivot of Turn; null: the middle of what is selected. */
  pivot: readonly [number, number] | null
}

/** What the viewer draws for a gesture under way, in plate pixels. */
export interface ToolSketch {
  lines: { points: readonly number[]; isClosed: boolean }[]
  rings: readonly (readonly [number, number])[]
}

/** What a transition wants done. Everything but the next state may be absent. */
export interface ToolStep<State> {
  state: State
  /** Patches to show while the gesture lasts. */
  preview?: Patch[]
  /** The finished gesture. */
  commit?: { label: string; patches: Patch[] }
  selection?: Partial<Selection>
  pivot?: readonly [number, number]
  /** A finished polygon for what is done beyond an edit: corners looked for in it, or the proof grid laid on it. */
  asks?: { kind: 'spread' | 'grid'; outline: readonly number[] }
  say?: string
}

/** A tool is a small state machine: pure functions from state and event to the next state and what follows. */
export interface Tool<State> {
  idle: State
  down(state: State, input: PointerInput, context: ToolContext): ToolStep<State>
  move(state: State, input: PointerInput, context: ToolContext): ToolStep<State>
  up(state: State, input: PointerInput, context: ToolContext): ToolStep<State>
  /** Enter finishes, Escape gives up. */
  key?(state: State, key: 'Enter' | 'Escape', context: ToolContext): ToolStep<State>
  sketch?(state: State): ToolSketch | null
  cursor: string
}
