/** The steps of the job, in the order artists take them. A step only chooses which tools lie at hand. */
export const STEPS = ['Study', 'Track', 'Shape', 'Edge', 'Order', 'Check', 'Handoff'] as const
export type Step = (typeof STEPS)[number]

export const TOOLS = [
  'select',
  'lasso',
  'pen',
  'bspline',
  'ellipse',
  'rectangle',
  'stroke',
  'turn',
  'reflect',
  'feather',
  'focus',
  'joints',
  'widths',
  'pull',
  'adjust',
  'region',
  'hole',
  'leaveOut',
  'point',
  'spread',
  'grid',
] as const
export type ToolName = (typeof TOOLS)[number]

export const TOOL_WORDS: Record<ToolName, { name: string; key: string; hint: string }> = {
  select: {
    name: 'Select',
    key: 's',
    hint: 'Select and move points, tangents, shapes and the box round them. Shift adds; drag on empty space for a band, with Alt a free form; Alt on an outline inserts a point',
  },
  lasso: { name: 'Lasso', key: 'l', hint: 'Draw a loose freehand outline; it becomes a spline with few points' },
  pen: {
    name: 'Pen',
    key: 'p',
    hint: 'Place points one by one, drag for tangents; click the first point or press Enter to close',
  },
  bspline: {
    name: 'B-spline',
    key: 'shift+p',
    hint: 'Place points round the piece; the curve stays smooth within them. Click the first point or press Enter to close',
  },
  ellipse: {
    name: 'Ellipse',
    key: 'shift+o',
    hint: 'Drag from corner to corner; Shift: a circle; Alt: from its middle',
  },
  rectangle: {
    name: 'Rectangle',
    key: 'shift+t',
    hint: 'Drag from corner to corner; Shift: a square; Alt: from its middle',
  },
  stroke: {
    name: 'Stroke',
    key: 'shift+s',
    hint: 'Place points along something thin: a line with a width at every point. Enter ends it',
  },
  joints: {
    name: 'Joints',
    key: 'shift+j',
    hint: 'Click the joints of a figure or a limb on one frame: Parts with loose outlines are made of them',
  },
  widths: {
    name: 'Widths',
    key: 'shift+u',
    hint: 'Drag out how wide a rigged figure is at its joints, both sides at once; Enter takes widths from the plate',
  },
  pull: {
    name: 'Pull',
    key: 'v',
    hint: 'Pull at a hand or a foot: both bones of the limb follow, Alt keeps its bend and stretches it; the joint between them bends the other way',
  },
  feather: {
    name: 'Feather',
    key: 'alt+f',
    hint: 'Drag the edge of the selected shapes outwards or inwards to soften it; with Alt both sides at once',
  },
  focus: {
    name: 'Focus',
    key: 'alt+b',
    hint: 'Drag the edge of the selected shapes out of focus, a bar at one point: blur beside the feather, as far to both sides',
  },
  turn: { name: 'Turn', key: 'r', hint: 'Click to put the pivot, drag to rotate about it, Shift-drag to scale' },
  reflect: {
    name: 'Reflect',
    key: 'alt+i',
    hint: 'Drag along the line of a puddle or a window: the selected Part is reflected about it, as a Part that follows it. A selected track carries the line',
  },
  region: {
    name: 'Region',
    key: 't',
    hint: 'Mark a flat surface to track: drag a rectangle, or click its corners and press Enter',
  },
  adjust: {
    name: 'Adjust',
    key: 'a',
    hint: 'Select tracks and drag their corners and search boxes; drag a track to place it by hand; Alt-drag to carry on with another pattern',
  },
  hole: {
    name: 'Hole',
    key: 'c',
    hint: 'Draw another outline for the region of the selected track; inside the first it is a hole',
  },
  point: {
    name: 'Point',
    key: 'm',
    hint: 'Mark a feature to follow: click it, or drag its pattern as large as wanted',
  },
  spread: {
    name: 'Spread',
    key: 'd',
    hint: 'Mark an area: many points are laid on its corners, to be followed together',
  },
  grid: {
    name: 'Grid',
    key: 'g',
    hint: 'Lay a grid on four corners; the selected track carries it, and a slip shows against the picture',
  },
  leaveOut: {
    name: 'Leave out',
    key: 'o',
    hint: 'Mark what the selected track must not look at: an arm, a reflection. Drag a rectangle, or click corners',
  },
}

/** Tools that make shapes. */
export const DRAWING_TOOLS: ReadonlySet<ToolName> = new Set([
  'lasso',
  'pen',
  'bspline',
  'ellipse',
  'rectangle',
  'stroke',
])

/** Tools that each step lays into the tool strip. Every tool can be called by its key from any step. */
export const STEP_TOOLS: Record<Step, readonly ToolName[]> = {
  Study: ['select'],
  Track: ['adjust', 'region', 'hole', 'leaveOut', 'point', 'spread', 'grid'],
  Shape: ['select', 'lasso', 'pen', 'bspline', 'ellipse', 'rectangle', 'stroke', 'turn', 'joints', 'widths', 'pull'],
  Edge: ['select', 'feather', 'focus', 'turn'],
  Order: ['select', 'reflect'],
  Check: ['select'],
  Handoff: ['select'],
}
