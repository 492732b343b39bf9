import { describe, expect, it } from 'vitest'
import { allOf, findObject, type RotoDocument } from '@tender-lasso/core/document'
import { boneTip, pivotOnPlate, RIG_PLANS, rigMade } from '@tender-lasso/core/edits'
import { documentOf, testPart, testShot, testSubject, withPatches } from '@tender-lasso/core/document/testDocuments'
import { NOTHING_SELECTED } from '../../store'
import { jointsTool } from './jointsTool'
import { pullTool } from './pullTool'
import { contextOf, pointerAt } from './testContext'
import type { ToolContext } from './tool'
import { widthsTool } from './widthsTool'
import { jointEndsOf } from '../../selection'

/** An arm straight down with its elbow a little out, four clicks. */
const ARM = [[400, 200], [380, 280], [400, 360], [405, 390]] as const // prettier-ignore

function placed(context: ToolContext, places: readonly (readonly [number, number] | null)[]) {
  let step = jointsTool.down(jointsTool.idle, pointerAt(...(places[0] ?? [0, 0]), { alt: !places[0] }), context)
  for (const place of places.slice(1))
    step = jointsTool.down(step.state, pointerAt(...(place ?? [0, 0]), { alt: !place }), context)
  return step
}

const bare = documentOf([testShot, testSubject, testPart('body')])
const armContext = contextOf(bare, { rigPlan: 'arm', selection: { ...NOTHING_SELECTED, partId: 'body' } })
const armed = (): RotoDocument => withPatches(bare, placed(armContext, ARM).commit!.patches)
const named = (document: RotoDocument, name: string) => allOf(document, 'part').find((part) => part.name === name)!

describe('joints', () => {
  it('say which comes next, and make the limb with the last, carried by the selected Part', () => {
    expect(jointsTool.tag!(jointsTool.idle, armContext)).toBe('shoulder, 1 of 4')
    const two = placed(armContext, ARM.slice(0, 2))
    expect(two.commit).toBeUndefined()
    expect(jointsTool.tag!(two.state, armContext)).toBe('wrist, 3 of 4')
    expect(jointsTool.prompt!(two.state, armContext)).toContain('Enter ends')
    const document = armed()
    expect(named(document, 'upper arm').parentId).toBe('body')
    expect(named(document, 'upper arm').subjectId).toBe(testSubject.id)
    expect(placed(armContext, ARM).tool).toBe('widths')
  })

  it('pass over what is not there with Alt, and end early with Enter', () => {
    const { state } = placed(armContext, ARM.slice(0, 3))
    const ended = jointsTool.key!(state, 'Enter', armContext)
    expect(allOf(withPatches(bare, ended.commit!.patches), 'part').map(({ name }) => name)).toEqual([
      'body',
      'upper arm',
      'forearm',
    ])
    const none = jointsTool.key!(placed(armContext, ARM.slice(0, 1)).state, 'Enter', armContext)
    expect(none.say).toContain('two joints')
    expect(jointsTool.key!(state, 'Escape', armContext).commit).toBeUndefined()
  })

  it('of a figure with the near limbs alone make the far ones as well', () => {
    const plan = RIG_PLANS[0]!
    const context = contextOf(documentOf([testShot]))
    const near = plan.joints.filter((name) => !name.startsWith('far '))
    const { state } = placed(context, near.map((_, i) => [500 + 7 * i, 100 + 31 * i] as const)) // prettier-ignore
    const ended = jointsTool.key!(state, 'Enter', context)
    const parts = allOf(withPatches(context.document, ended.commit!.patches), 'part')
    expect(parts).toHaveLength(plan.bones.length)
    expect(ended.commit!.label).toBe('rig the figure')
  })
})

describe('pull', () => {
  it('takes the selected hand by its joint, where the forearm lies over it, and brings the wrist along', () => {
    const document = armed()
    const hand = named(document, 'hand')
    const context = contextOf(document, { selection: { ...NOTHING_SELECTED, partId: hand.id } })
    const [x, y] = pivotOnPlate(document, hand, 1001)
    let step = pullTool.down(pullTool.idle, pointerAt(x, y - 5), context)
    step = pullTool.move(step.state, pointerAt(x - 40, y - 45), context)
    step = pullTool.up(step.state, pointerAt(x - 40, y - 45), context)
    expect(step.commit).toMatchObject({ label: 'pull hand', reaches: true })
    const after = withPatches(document, step.commit!.patches)
    const [nx, ny] = pivotOnPlate(after, named(after, 'hand'), 1001)
    expect([nx, ny]).toEqual([expect.closeTo(x - 40, 5), expect.closeTo(y - 40, 5)])
  })

  it('takes the elbow across the arm, or with Alt anywhere; the wrist stays', () => {
    const document = armed()
    const hand = named(document, 'hand')
    const context = contextOf(document, { selection: { ...NOTHING_SELECTED, partId: hand.id } })
    const elbowAfter = (toX: number, alt: boolean) => {
      let step = pullTool.down(pullTool.idle, pointerAt(380, 280), context)
      step = pullTool.move(step.state, pointerAt(toX, 280, { alt }), context)
      step = pullTool.up(step.state, pointerAt(toX, 280, { alt }), context)
      expect(step.commit).toMatchObject({ label: 'bend at forearm' })
      const after = withPatches(document, step.commit!.patches)
      expect(pivotOnPlate(after, named(after, 'hand'), 1001)).toEqual([expect.closeTo(400, 5), expect.closeTo(360, 5)])
      return pivotOnPlate(after, named(after, 'forearm'), 1001)
    }
    expect(elbowAfter(390, false)).toEqual([expect.closeTo(380, 5), expect.closeTo(280, 5)])
    expect(elbowAfter(407, false)).toEqual([expect.closeTo(420, 5), expect.closeTo(280, 5)])
    expect(elbowAfter(407, true)).toEqual([expect.closeTo(407, 5), expect.closeTo(280, 5)])
  })

  it('takes a hand by its tip: it turns alone about the wrist, and says so before', () => {
    const document = armed()
    const hand = named(document, 'hand')
    const context = contextOf(document, { selection: { ...NOTHING_SELECTED, partId: hand.id } })
    const [px, py] = pivotOnPlate(document, hand, 1001)
    const [tx, ty] = boneTip(document, hand, 1001)!
    const away = Math.hypot(tx - px, ty - py)
    const [x, y] = [px + 0.95 * (tx - px), py + 0.95 * (ty - py)]
    expect(pullTool.hover!(pullTool.idle, pointerAt(x, y), context)!.words).toBe('Drag: turn hand')
    expect(pullTool.hover!(pullTool.idle, pointerAt((px + tx) / 2, (py + ty) / 2), context)!.words).toBe('Drag: pull hand') // prettier-ignore
    // A quarter turn to growing angles.
    const [qx, qy] = [px - 0.95 * (ty - py), py + 0.95 * (tx - px)]
    let step = pullTool.down(pullTool.idle, pointerAt(x, y), context)
    step = pullTool.move(step.state, pointerAt(qx, qy), context)
    step = pullTool.up(step.state, pointerAt(qx, qy), context)
    expect(step.commit).toMatchObject({ label: 'turn hand', reaches: true })
    const after = withPatches(document, step.commit!.patches)
    const turned = boneTip(after, named(after, 'hand'), 1001)!
    expect(turned[0]).toBeCloseTo(px - (ty - py), 6)
    expect(turned[1]).toBeCloseTo(py + (tx - px), 6)
    expect(Math.hypot(turned[0] - px, turned[1] - py)).toBeCloseTo(away, 6)
    expect(pivotOnPlate(after, named(after, 'forearm'), 1001)).toEqual(pivotOnPlate(document, named(document, 'forearm'), 1001)) // prettier-ignore
  })

  it('shows which bones will turn before it is used', () => {
    const document = armed()
    expect(pullTool.prompt!(pullTool.idle, contextOf(document))).toContain('Pull at a hand')
    expect(pullTool.sketch!(pullTool.idle, contextOf(document))).toBeNull()
    const selection = { ...NOTHING_SELECTED, partId: named(document, 'hand').id }
    const context = contextOf(document, { selection })
    expect(pullTool.prompt!(pullTool.idle, context)).toContain('upper arm and forearm by hand')
    expect(pullTool.sketch!(pullTool.idle, context)!.rings).toEqual(ARM.slice(0, 3).map(([x, y]) => [expect.closeTo(x, 6), expect.closeTo(y, 6)])) // prettier-ignore
  })

  it('says what it needs where there is no limb, and leaves a locked one', () => {
    const document = armed()
    const nowhere = pullTool.down(pullTool.idle, pointerAt(5, 5), contextOf(document))
    expect(nowhere.say).toContain('Pull at a hand')
    const upper = findObject(document, 'part', named(document, 'upper arm').id)!
    const locked = { objects: new Map(document.objects).set(upper.id, { ...upper, locked: true }) }
    const context = contextOf(locked, { selection: { ...NOTHING_SELECTED, partId: named(document, 'hand').id } })
    expect(pullTool.down(pullTool.idle, pointerAt(400, 362), context).say).toContain('locked')
  })
})

describe('widths at joints', () => {
  const plan = RIG_PLANS.find(({ name }) => name === 'arm')!
  const joints = new Map(Object.entries({ shoulder: [200, 100], elbow: [200, 200], wrist: [200, 290], fingertips: [200, 330] } as const)) // prettier-ignore
  const place = { subjectId: testSubject.id, parentId: null, depth: 0, depthStep: 1, frame: 1001, shade: 0 }
  const start = documentOf([testShot, testSubject])
  const { patches, partIds } = rigMade(start, plan, joints, place)
  const arm = withPatches(start, patches)
  const context = contextOf(arm, { selection: { ...NOTHING_SELECTED, partId: partIds[0]! } })
  const halves = (document: typeof arm) =>
    Object.fromEntries(jointEndsOf({ ...context, document }).map(({ shape, end, half }) => [`${findObject(document, 'part', shape.partId)!.name} ${end}`, half])) // prettier-ignore

  it('are dragged on both sides at once, of both bones that meet there, and no other end changes', () => {
    const before = halves(arm)
    const { right } = jointEndsOf(context).find(({ shape, end }) => end === 'to' && findObject(arm, 'part', shape.partId)!.name === 'upper arm')! // prettier-ignore
    const down = widthsTool.down(widthsTool.idle, pointerAt(...right), context)
    const away = Math.sign(right[0] - 200)
    const move = widthsTool.move(down.state, pointerAt(200 + away * 30, 200), context)
    const { commit } = widthsTool.up(move.state, pointerAt(200 + away * 30, 200), context)
    const after = withPatches(arm, commit!.patches)
    const wide = halves(after)
    expect(wide).toEqual({ ...before, 'upper arm to': expect.closeTo(30, 6), 'forearm from': expect.closeTo(30, 6) } as typeof wide) // prettier-ignore
    // Both sides: the joint stays where it was.
    for (const { joint, end, shape } of jointEndsOf({ ...context, document: after })) {
      const was = jointEndsOf(context).find((other) => other.shape.id === shape.id && other.end === end)!
      expect(joint).toEqual(was.joint.map((v) => expect.closeTo(v, 6)))
    }
  })
})
