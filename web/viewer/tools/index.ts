import type { ToolName } from '../../store'
import { adjustTool } from './adjustTool'
import { featherTool, focusTool } from './edgeTools'
import { ellipseTool, rectangleTool } from './frameTools'
import { jointsTool } from './jointsTool'
import { lassoTool } from './lassoTool'
import { bsplineTool, penTool, strokeTool } from './penTools'
import { pointTool } from './pointTool'
import { pullTool } from './pullTool'
import { reflectTool } from './reflectTool'
import { gridTool, holeTool, leaveOutTool, regionTool, spreadTool } from './regionTool'
import { selectTool } from './selectTool'
import type { Tool } from './tool'
import { turnTool } from './turnTool'
import { widthsTool } from './widthsTool'

/** Every tool that can be in the hand, each a small state machine. */
export const TOOLS: Record<ToolName, Tool<unknown>> = {
  select: selectTool as Tool<unknown>,
  lasso: lassoTool as Tool<unknown>,
  pen: penTool as Tool<unknown>,
  bspline: bsplineTool as Tool<unknown>,
  ellipse: ellipseTool as Tool<unknown>,
  rectangle: rectangleTool as Tool<unknown>,
  stroke: strokeTool as Tool<unknown>,
  turn: turnTool as Tool<unknown>,
  reflect: reflectTool as Tool<unknown>,
  feather: featherTool as Tool<unknown>,
  focus: focusTool as Tool<unknown>,
  joints: jointsTool as Tool<unknown>,
  widths: widthsTool as Tool<unknown>,
  pull: pullTool as Tool<unknown>,
  region: regionTool as Tool<unknown>,
  leaveOut: leaveOutTool as Tool<unknown>,
  hole: holeTool as Tool<unknown>,
  adjust: adjustTool as Tool<unknown>,
  point: pointTool as Tool<unknown>,
  spread: spreadTool as Tool<unknown>,
  grid: gridTool as Tool<unknown>,
}
