/** The steps of the job, in the order artists take them. A step only chooses which tools lie at hand. */
export const STEPS = ['Study', 'Track', 'Shape', 'Edge', 'Order', 'Check', 'Handoff'] as const
export type Step = (typeof STEPS)[number]

export const TOOLS = ['select', 'lasso', 'pen', 'turn', 'region', 'leaveOut'] as const
export type ToolName = (typeof TOOLS)[number]

export const TOOL_WORDS: Record<ToolName, { name: string; key: string; hint: string }> = {
  select: {
    name: 'Select',
    key: 's',
    hint: 'Select and move points, tangents and shapes. Shift adds; drag on empty space for a band; Alt on an outline inserts a point',
  },
  lasso: { name: 'Lasso', key: 'l', hint: 'Draw a loose freehand outline; it becomes a spline with few points' },
  pen: {
    name: 'Pen',
    key: 'p',
    hint: 'Place points one by one, drag for tangents; click the first point or press Enter to close',
  },
  turn: { name: 'Turn', key: 'r', hint: 'Click to put the pivot, drag to rotate about it, Shift-drag to scale' },
  region: {
    name: 'Region',
    key: 't',
    hint: 'Mark a flat surface to track: drag a rectangle, or click its corners and press Enter',
  },
  leaveOut: {
    name: 'Leave out',
    key: 'o',
    hint: 'Mark what the selected track must not look at: an arm, a reflection. Drag a rectangle, or click corners',
  },
}

/** Tools that each step lays into the tool strip. Every tool can be called by its key from any step. */
export const STEP_TOOLS: Record<Step, readonly ToolName[]> = {
  Study: ['select'],
  Track: ['select', 'region', 'leaveOut'],
  Shape: ['select', 'lasso', 'pen', 'turn'],
  Edge: ['select', 'turn'],
  Order: ['select'],
  Check: ['select'],
  Handoff: ['select'],
}
