import type { Keying } from '@tender-lasso/core/edits'
import { editOrReach, keyingNow, keyingOnTheWay, layProof, setEditing, spreadPoints, subjectAtHand, takeWidthsFromPlate } from '../commands' // prettier-ignore
import { DRAWING_TOOLS, preview, say, select, useShot, withSolo, type ToolName } from '../store'
import { TOOLS } from './tools'
import { selectTool } from './tools/selectTool'
import type { PointerInput, Tool, ToolContext, ToolHover, ToolSketch, ToolStep } from './tools/tool'

/** What the picture does about the tool. */
export interface ToolStage {
  /** What the tool draws is another. */
  repaint(): void
  setCursor(cursor: string): void
}

/** Holds the tool in the hand: hands it the pointer and keys, and does what it asks for. */
export class ToolHost {
  private machine: { tool: ToolName; state: unknown }
  /** What a press would take hold of, looked at once a display frame. */
  private hover: ToolHover | null = null
  private hoverScheduled = 0

  constructor(private readonly stage: ToolStage) {
    const { tool } = useShot.getState()
    this.machine = { tool, state: TOOLS[tool].idle }
  }

  close() {
    cancelAnimationFrame(this.hoverScheduled)
  }

  get tool(): ToolName {
    return this.machine.tool
  }

  /** Shapes whose lines are shown as what will move. */
  get gripped() {
    return this.hover?.shapes ?? []
  }

  sketch(): ToolSketch | null {
    return TOOLS[this.machine.tool].sketch?.(this.machine.state, this.context()) ?? null
  }

  /** Another tool is in the hand: what the former one had begun is given up. */
  taken(tool: ToolName) {
    this.machine = { tool, state: TOOLS[tool].idle }
    this.forgetHover()
    const { shown, document } = useShot.getState()
    if (shown !== document) preview([])
  }

  down(input: PointerInput) {
    this.forgetHover()
    this.step((tool, state, context) => tool.down(state, input, context))
  }

  move(input: PointerInput) {
    this.step((tool, state, context) => tool.move(state, input, context), keyingOnTheWay())
    this.hoverScheduled ||= requestAnimationFrame(() => this.look(input))
  }

  up(input: PointerInput) {
    this.step((tool, state, context) => tool.up(state, input, context))
  }

  /** A gesture given up from outside. */
  giveUp() {
    this.machine.state = TOOLS[this.machine.tool].idle
    preview([])
  }

  key(key: 'Enter' | 'Escape') {
    this.step((tool, state, context) => tool.key?.(state, key, context) ?? { state })
  }

  /** A key that the tool may want. Returns whether it has taken it. */
  offered(key: 'Enter' | 'Escape'): boolean {
    const isOut = key === 'Escape' && !this.isUnderWay()
    // With nothing under way a mark in the timeline goes before the selection does.
    if (isOut && useShot.getState().range !== null) return false
    // With a drawing tool in the hand, Escape selects nothing as it does with Select: the next shape is of a new Part.
    if (isOut && DRAWING_TOOLS.has(this.machine.tool)) {
      const { selection } = selectTool.key!(selectTool.idle, key, this.context())
      if (selection) select(selection)
    } else this.key(key)
    return true
  }

  /** What the tool waits for, so that it can be said below the picture and at the pointer. */
  tellPrompt() {
    const { tool, state } = this.machine
    const prompt = TOOLS[tool].prompt?.(state, this.context()) ?? null
    const tag = TOOLS[tool].tag?.(state, this.context()) ?? null
    const now = useShot.getState()
    if (prompt !== now.prompt || tag !== now.tag) useShot.setState({ prompt, tag })
  }

  private context(keying: Keying = keyingNow()): ToolContext {
    const state = useShot.getState()
    const { document, frame, selection, pivot, editing } = state
    const { softness, snaps, strokeWidth, rigPlan, nextOperation } = editing
    return {
      document: withSolo(document, state.view.solo),
      frame,
      selection,
      subjectId: subjectAtHand(document, state.lastSubjectId),
      pivot,
      keying,
      softness,
      snaps,
      strokeWidth,
      bendSides: state.bendSides,
      rigPlan,
      nextOperation,
    }
  }

  /** Whether the tool has begun something. */
  private isUnderWay(): boolean {
    const kindOf = (state: unknown) => (state as { kind: string }).kind
    return kindOf(this.machine.state) !== kindOf(TOOLS[this.machine.tool].idle)
  }

  /** What the pointer was over is no longer what a press would move. */
  private forgetHover() {
    this.hover = null
    if (useShot.getState().grip !== null) useShot.setState({ grip: null })
  }

  /** Shows what a press would move, before it does: by the cursor, its lines and in words. */
  private look(input: PointerInput) {
    this.hoverScheduled = 0
    const { tool, state } = this.machine
    const hover = useShot.getState().isPlaying ? null : (TOOLS[tool].hover?.(state, input, this.context()) ?? null)
    const isSame = hover?.words === this.hover?.words && hover?.shapes.length === this.hover?.shapes.length
    this.hover = hover
    if (isSame) return
    this.stage.setCursor(hover?.cursor ?? TOOLS[tool].cursor)
    useShot.setState({ grip: hover?.words ?? null })
    this.stage.repaint()
  }

  /** One transition of the tool, and what it asks for. */
  private step(
    transition: (tool: Tool<unknown>, state: unknown, context: ToolContext) => ToolStep<unknown>,
    keying?: Keying,
  ) {
    const result = transition(TOOLS[this.machine.tool], this.machine.state, this.context(keying))
    const isOther = result.state !== this.machine.state
    this.machine.state = result.state
    if (result.preview) preview(result.preview)
    if (result.commit) {
      const { label, patches, reaches = false } = result.commit
      const isDone = editOrReach(label, patches, reaches)
      if (isDone && DRAWING_TOOLS.has(this.machine.tool)) setEditing({ nextOperation: 'add' })
      if (isDone && result.tells) say('said', result.tells(useShot.getState().document))
    }
    if (result.selection) select(result.selection)
    if (result.pivot) useShot.setState({ pivot: result.pivot })
    if (result.asks?.kind === 'spread') void spreadPoints(result.asks.outline)
    if (result.asks?.kind === 'widths') void takeWidthsFromPlate()
    if (result.asks?.kind === 'grid') layProof(result.asks.outline)
    if (result.say) say('doubtful', result.say)
    if (result.tool) useShot.setState({ tool: result.tool })
    if (isOther) {
      this.tellPrompt()
      this.stage.repaint()
    }
  }
}
