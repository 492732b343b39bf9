import {
  bonesOf,
  depthsOfNewParts,
  objectAdded,
  rigMade,
  withGuesses,
  RIG_PLANS,
  type RigPlan,
} from '@tender-lasso/core/edits'
import { partsByDepth } from '@tender-lasso/core/evaluation'
import { newSubject } from '../../commands'
import type { Tool, ToolContext, ToolStep } from './tool'
import { selectedPart } from '../../store'

/** Joints placed so far; null where one was passed over. */
type Placed = readonly (readonly [number, number] | null)[]
type State = { kind: 'idle' } | { kind: 'placing'; placed: Placed; hover: readonly [number, number] }

const IDLE: State = { kind: 'idle' }

const planOf = ({ rigPlan }: ToolContext): RigPlan => RIG_PLANS.find(({ name }) => name === rigPlan) ?? RIG_PLANS[0]!

/** Rigs a figure or a limb: its joints are clicked one after the other on one frame. Alt passes over one. */
export const jointsTool: Tool<State> = {
  idle: IDLE,
  cursor: 'crosshair',
  down(state, input, context) {
    const placed = state.kind === 'placing' ? state.placed : []
    const next: Placed = [...placed, input.alt ? null : [input.x, input.y]]
    if (next.length === planOf(context).joints.length) return rigged(next, context)
    return { state: { kind: 'placing', placed: next, hover: [input.x, input.y] } }
  },
  move: (state, input) => ({ state: state.kind === 'placing' ? { ...state, hover: [input.x, input.y] } : state }),
  up: (state) => ({ state }),
  key(state, key, context) {
    return key === 'Enter' && state.kind === 'placing' ? rigged(state.placed, context) : { state: IDLE }
  },
  prompt(state, context) {
    const plan = planOf(context)
    const at = placedCount(state)
    const ends = hasOnlyNear(plan, at) ? 'Enter ends, the far limbs as mirror images' : 'Enter ends'
    return `Click the joints one after the other · Alt passes over${at > 1 ? ` · ${ends}` : ''}`
  },
  tag(state, context) {
    const { joints } = planOf(context)
    const at = placedCount(state)
    return `${joints[at] ?? ''}, ${at + 1} of ${joints.length}`
  },
  sketch(state, context) {
    if (state.kind !== 'placing') return null
    const plan = planOf(context)
    const joints = jointsOf(plan, [...state.placed, state.hover])
    const bones = bonesOf(plan, joints)
    return {
      lines: bones.map(({ from, to }) => ({ points: [...joints.get(from)!, ...joints.get(to)!], isClosed: false })),
      rings: state.placed.flatMap((place) => (place ? [place] : [])),
    }
  },
}

const placedCount = (state: State) => (state.kind === 'placing' ? state.placed.length : 0)

/** True when the near limbs are placed and the far ones are still to come. */
const hasOnlyNear = (plan: RigPlan, at: number) =>
  plan.joints[at]?.startsWith('far ') && !plan.joints[at - 1]?.startsWith('far ')

function jointsOf(plan: RigPlan, placed: Placed): Map<string, readonly [number, number]> {
  const pairs = placed.flatMap((place, i) => (place && plan.joints[i] ? [[plan.joints[i], place] as const] : []))
  return new Map(pairs)
}

/** The Parts of the joints: of the selected Part's Subject, a limb carried by that Part; or of a new Subject. */
function rigged(placed: Placed, context: ToolContext): ToolStep<State> {
  const { document, frame, selection } = context
  const plan = planOf(context)
  const joints = withGuesses(plan, jointsOf(plan, placed))
  if (bonesOf(plan, joints).length === 0) return { state: IDLE, say: 'A bone needs its two joints: click at least two that follow one another' } // prettier-ignore
  const selected = selectedPart({ document, selection })
  const subject = selected ? undefined : { ...newSubject(document), name: plan.of }
  const { depth, step } = depthsOfNewParts(document, plan.bones.length)
  const { patches, partIds } = rigMade(document, plan, joints, {
    subjectId: selected?.subjectId ?? subject!.id,
    parentId: plan.of === 'Figure' ? null : (selected?.id ?? null),
    depth,
    depthStep: step,
    frame,
    shade: partsByDepth(document, frame).filter(({ subjectId }) => subjectId === selected?.subjectId).length,
  })
  return {
    state: IDLE,
    commit: { label: `rig the ${plan.name}`, patches: [...(subject ? [objectAdded(subject)] : []), ...patches] },
    selection: { partId: partIds[0]!, shapeIds: [], pointIds: new Set(), trackIds: [], keys: [] },
    // How wide the figure is comes right after its joints.
    tool: 'widths',
  }
}
