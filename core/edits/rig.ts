import { applyToPoint, crossProduct, identity, invert, vectorBetween, type Matrix3, type Vector2d } from '../geometry'
import { QUARTER_ARC_TANGENT as ROUND } from '../spline'
import { shotPixelAspect, worldAt } from '../evaluation'
import {
  EMPTY_DOCUMENT,
  findObject,
  newId,
  NEW_PART_FIELDS,
  type Part,
  type RotoDocument,
  type Shape,
  type Patch,
  constantChannel,
} from '../document'
import { objectAdded } from './objects'
import { shapeDrawn, type DrawnPoint } from './plateSpaceEdits'

/** A piece of a figure between two joints. Widths are shares of its length. */
interface Bone {
  name: string
  /** Joint that it turns about, and joint at its other end. */
  from: string
  to: string
  parent: string | null
  widthFrom: number
  widthTo: number
}

/** Which joints are clicked, in that order, and what is made of them. */
export interface RigPlan {
  name: string
  /** What the Subject is called when there is none yet. */
  of: 'Figure' | 'Limb'
  joints: readonly string[]
  bones: readonly Bone[]
  /** Names of the bones, nearest to the camera first. */
  depth: readonly string[]
}

const arm = (side: string, parent: string | null): Bone[] => [
  { name: `${side}upper arm`, from: `${side}shoulder`, to: `${side}elbow`, parent, widthFrom: 0.36, widthTo: 0.28 },
  { name: `${side}forearm`, from: `${side}elbow`, to: `${side}wrist`, parent: `${side}upper arm`, widthFrom: 0.3, widthTo: 0.22 }, // prettier-ignore
  { name: `${side}hand`, from: `${side}wrist`, to: `${side}fingertips`, parent: `${side}forearm`, widthFrom: 0.5, widthTo: 0.4 }, // prettier-ignore
]

const leg = (side: string, parent: string | null): Bone[] => [
  { name: `${side}thigh`, from: `${side}hip`, to: `${side}knee`, parent, widthFrom: 0.42, widthTo: 0.3 },
  {
    name: `${side}shin`,
    from: `${side}knee`,
    to: `${side}ankle`,
    parent: `${side}thigh`,
    widthFrom: 0.3,
    widthTo: 0.2,
  },
  {
    name: `${side}foot`,
    from: `${side}ankle`,
    to: `${side}toes`,
    parent: `${side}shin`,
    widthFrom: 0.5,
    widthTo: 0.35,
  },
]

const jointsOf = (bones: readonly Bone[]) => [...new Set(bones.flatMap(({ from, to }) => [from, to]))]
const outwards = (bones: readonly Bone[]) => bones.map(({ name }) => name).reverse()

const TRUNK: readonly Bone[] = [
  { name: 'torso', from: 'hips', to: 'neck', parent: null, widthFrom: 0.55, widthTo: 0.5 },
  { name: 'head', from: 'neck', to: 'crown', parent: 'torso', widthFrom: 0.5, widthTo: 0.7 },
]
const NEAR_ARM = arm('near ', 'torso')
const FAR_ARM = arm('far ', 'torso')
const NEAR_LEG = leg('near ', 'torso')
const FAR_LEG = leg('far ', 'torso')

const FIGURE = {
  of: 'Figure',
  bones: [...TRUNK, ...NEAR_ARM, ...FAR_ARM, ...NEAR_LEG, ...FAR_LEG],
  depth: [...outwards(NEAR_ARM), 'head', 'torso', ...outwards(NEAR_LEG), ...outwards(FAR_LEG), ...outwards(FAR_ARM)],
} as const
const limb = (name: string, bones: readonly Bone[]): RigPlan => ({ name, of: 'Limb', joints: jointsOf(bones), bones, depth: outwards(bones) }) // prettier-ignore

export const RIG_PLANS: readonly RigPlan[] = [
  {
    ...FIGURE,
    name: 'figure',
    joints: ['crown', 'neck', 'hips', ...jointsOf(NEAR_ARM), ...jointsOf(NEAR_LEG), ...jointsOf(FAR_ARM), ...jointsOf(FAR_LEG)], // prettier-ignore
  },
  {
    ...FIGURE,
    name: 'quick figure',
    joints: ['crown', 'neck', 'hips', 'near elbow', 'near wrist', 'near knee', 'near ankle'],
  },
  limb('arm', arm('', null)),
  limb('leg', leg('', null)),
]

export type JointPlaces = ReadonlyMap<string, readonly [number, number]>

/**
 * Joints with what was not clicked as a first guess, to be pulled where it belongs: of a quick figure where its near limbs begin
 * and end, and of each figure the far side where only the near one was placed.
 */
export function withGuesses(plan: RigPlan, clicked: JointPlaces): JointPlaces {
  return plan.of === 'Figure'
    ? withFarSide(plan, plan.joints.includes('near hip') ? clicked : withEnds(clicked))
    : clicked
}

/** Far joints as mirror images of the near ones about an upright line through the hips. */
function withFarSide(plan: RigPlan, joints: JointPlaces): JointPlaces {
  const hips = joints.get('hips')
  const hasFar = [...joints.keys()].some((name) => name.startsWith(FAR))
  if (!hips || hasFar) return joints
  const mirrored = jointsOf(plan.bones).flatMap((name) => {
    const near = name.startsWith(FAR) ? joints.get(NEAR + name.slice(FAR.length)) : undefined
    return near ? [[name, [2 * hips[0] - near[0], near[1]]] as const] : []
  })
  return new Map([...joints, ...mirrored])
}

/**
 * Shoulder, hip, fingertips and toes of the near side, by common proportions (common practice, no published source): the
 * shoulder a tenth of the trunk below the neck, the leg from the hips, a hand 0.4 of a forearm on, a foot 0.4 of a shin
 * forwards, where the knee is bent.
 */
function withEnds(joints: JointPlaces): JointPlaces {
  const found = new Map(joints)
  const guess = (name: string, from: readonly string[], place: (...places: Vector2d[]) => Vector2d) => {
    const places = from.map((one) => joints.get(one))
    if (places.every((one) => one !== undefined)) found.set(name, place(...places))
  }
  const along = (a: Vector2d, b: Vector2d, share: number): Vector2d => [
    a[0] + (b[0] - a[0]) * share,
    a[1] + (b[1] - a[1]) * share,
  ]
  guess('near shoulder', ['neck', 'hips'], (neck, hips) => along(neck, hips, 0.1))
  guess('near hip', ['hips'], (hips) => hips)
  guess('near fingertips', ['near elbow', 'near wrist'], (elbow, wrist) => along(elbow, wrist, 1.4))
  guess('near toes', ['hips', 'near knee', 'near ankle'], (hips, knee, ankle) => {
    const [sx, sy] = vectorBetween(knee, ankle)
    const forwards = crossProduct(vectorBetween(hips, ankle), vectorBetween(hips, knee)) > 0 ? -0.4 : 0.4
    return [ankle[0] + forwards * sy, ankle[1] - forwards * sx]
  })
  return found
}

const NEAR = 'near '
const FAR = 'far '

/** Bones of a plan whose two joints are both there. */
export function bonesOf(plan: RigPlan, joints: JointPlaces): Bone[] {
  return plan.bones.filter(({ from, to }) => joints.has(from) && joints.has(to))
}

/** How thick a bone is at its two ends, square pixels. */
function widthsOf({ from, to, widthFrom, widthTo }: Bone, joints: JointPlaces, pixelAspect: number): [number, number] {
  const [a, b] = [joints.get(from)!, joints.get(to)!]
  const length = Math.hypot((b[0] - a[0]) * pixelAspect, b[1] - a[1])
  return [length * widthFrom, length * widthTo]
}

/**
 * A loose outline round a bone, round at both ends and beyond them by half its width, so that two bones overlap at their
 * joint however they are turned. Six smooth points: before the first joint, left of both, beyond the second, right of both.
 *
 * @param pixelAspect  width of a pixel in its heights: the ends are round as they are seen
 */
export function boneOutline(
  from: readonly [number, number],
  to: readonly [number, number],
  widthFrom: number,
  widthTo: number,
  pixelAspect: number,
): DrawnPoint[] {
  const square = ([x, y]: readonly [number, number]) => [x * pixelAspect, y] as const
  return roundBone(square(from), square(to), widthFrom, widthTo).map(({ x, inX, outX, ...rest }) => ({
    ...rest,
    x: x / pixelAspect,
    inX: inX / pixelAspect,
    outX: outX / pixelAspect,
  }))
}

/** The same in square pixels. */
function roundBone(
  from: readonly [number, number],
  to: readonly [number, number],
  widthFrom: number,
  widthTo: number,
): DrawnPoint[] {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]) || 1
  const [ux, uy] = [(to[0] - from[0]) / length, (to[1] - from[1]) / length]
  const [nx, ny] = [uy, -ux]
  const [a, b] = [widthFrom / 2, widthTo / 2]
  // The sides run from one width to the other; their tangents at both ends lie along them.
  const [sx, sy] = [ux * length + nx * (b - a), uy * length + ny * (b - a)]
  const [rx, ry] = [ux * length - nx * (b - a), uy * length - ny * (b - a)]
  const point = (x: number, y: number, inX: number, inY: number, outX: number, outY: number): DrawnPoint => ({ x, y, inX, inY, outX, outY, isCorner: false }) // prettier-ignore
  const side = Math.hypot(sx, sy) || 1
  const alongLeft = (k: number) => [(sx / side) * k, (sy / side) * k] as const
  const alongRight = (k: number) => [(rx / side) * k, (ry / side) * k] as const
  const third = side / 3
  return [
    point(from[0] - ux * a, from[1] - uy * a, -nx * ROUND * a, -ny * ROUND * a, nx * ROUND * a, ny * ROUND * a),
    point(from[0] + nx * a, from[1] + ny * a, ...alongLeft(-ROUND * a), ...alongLeft(third)),
    point(to[0] + nx * b, to[1] + ny * b, ...alongLeft(-third), ...alongLeft(ROUND * b)),
    point(to[0] + ux * b, to[1] + uy * b, nx * ROUND * b, ny * ROUND * b, -nx * ROUND * b, -ny * ROUND * b),
    point(to[0] - nx * b, to[1] - ny * b, ...alongRight(ROUND * b), ...alongRight(-third)),
    point(from[0] - nx * a, from[1] - ny * a, ...alongRight(third), ...alongRight(-ROUND * a)),
  ]
}

function placeOf(map: Matrix3, px: number, py: number): [number, number] {
  const [x, y] = applyToPoint(map, px, py)
  return [x!, y!]
}

/** What the Parts of a rig belong to and hang on. */
export interface RigPlace {
  subjectId: string
  /** What carries the bones that hang on none of their own; null: nothing. */
  parentId: string | null
  /** Depth of the nearest; the others lie one behind the other at equal steps. */
  depth: number
  depthStep: number
  frame: number
  /** First shade of the Subject's hue that is free. */
  shade: number
}

/**
 * A figure or a limb of the joints that were clicked: a Part for each bone whose joints are there, turned about its first
 * joint and pinned to what carries it, with a starter outline.
 */
export function rigMade(
  document: RotoDocument,
  plan: RigPlan,
  onPlate: JointPlaces,
  place: RigPlace,
): { patches: Patch[]; partIds: string[] } {
  const bones = bonesOf(plan, onPlate)
  const pixelAspect = shotPixelAspect(document)
  const parent = place.parentId === null ? undefined : findObject(document, 'part', place.parentId)
  const toSpace = parent ? invert(worldAt(document, parent, place.frame)) : identity()
  const joints = new Map([...onPlate].map(([name, [x, y]]) => [name, placeOf(toSpace, x, y)]))
  const ids = new Map(bones.map(({ name }) => [name, newId()]))
  const near = plan.depth.filter((name) => ids.has(name))
  const objects = bones.flatMap((bone, i): (Part | Shape)[] => {
    const [from, to] = [joints.get(bone.from)!, joints.get(bone.to)!]
    const parentId = (bone.parent && ids.get(bone.parent)) || place.parentId
    const part: Part = {
      ...NEW_PART_FIELDS,
      id: ids.get(bone.name)!,
      subjectId: place.subjectId,
      parentId,
      name: bone.name,
      shade: (place.shade + i) % 12,
      channels: { depth: constantChannel(place.depth + near.indexOf(bone.name) * place.depthStep) },
      pivot: [from[0], from[1]],
      pin: parentId === null ? null : { to: 'parent', place: [from[0], from[1]] },
    }
    const points = boneOutline(from, to, ...widthsOf(bone, joints, pixelAspect), pixelAspect)
    return [part, shapeDrawn(EMPTY_DOCUMENT, part.id, place.frame, points, { name: 'outline', order: 0 })]
  })
  return { patches: objects.map(objectAdded), partIds: [...ids.values()] }
}
