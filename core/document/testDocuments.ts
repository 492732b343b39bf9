import { constantChannel } from './channelAccess'
import { applyBatch, type EditBatch } from './batches'
import { isConflict, type Patch } from './patches'
import {
  newId,
  NEW_PART_FIELDS,
  POINT_STRIDE,
  SCHEMA_VERSION,
  type DocumentObject,
  type Part,
  type RotoDocument,
  type Shape,
  type Shot,
  type Subject,
} from './objects'
import { NEW_TRACK_FIELDS, type Track } from './track'

/** Small documents for tests and benchmarks: a shot, a Subject, Parts with round shapes and keys. */
export function documentOf(objects: readonly DocumentObject[]): RotoDocument {
  return { objects: new Map(objects.map((object) => [object.id, object])) }
}

export const testShot: Shot = {
  kind: 'shot',
  id: 'shot',
  width: 1280,
  height: 720,
  pixelAspect: 1,
  range: [1001, 1072],
  rate: { numerator: 24, denominator: 1 },
  channels: { shutterAngle: constantChannel(180), shutterPhase: constantChannel(-90) },
}

export const testSubject: Subject = { kind: 'subject', id: 'lamplighter', name: 'Lamplighter', hue: 1, order: 0 }

export function testPart(id: string, { depth = 0, ...overrides }: Partial<Part> & { depth?: number } = {}): Part {
  return {
    ...NEW_PART_FIELDS,
    id,
    subjectId: testSubject.id,
    parentId: null,
    name: id,
    shade: 0,
    pivot: [0, 0],
    ...overrides,
    channels: { depth: constantChannel(depth), ...overrides.channels },
  }
}

/** Round outline of `points` points, one key per time, each key moved by 3 px. */
export function testShape(id: string, partId: string, times: readonly number[], points = 6, radius = 60): Shape {
  return {
    kind: 'shape',
    id,
    partId,
    name: id,
    order: 0,
    curve: 'bezier',
    isClosed: true,
    interpolateBy: 'coordinates',
    life: null,
    hidden: [],
    operation: 'add',
    falloff: 'smooth',
    falloffSlopes: [0, 0],
    motionBlur: true,
    blurWeights: {},
    pointIds: Array.from({ length: points }, (_, i) => `${id}-p${i}`),
    corners: new Array<boolean>(points).fill(false),
    visible: true,
    mover: null,
    frozenMovers: [],
    movedPoints: [],
    pivot: null,
    channels: {
      outline: {
        keys: times.map((time, k) => ({
          time,
          interpolation: 'smooth',
          values: roundOutline(points, radius, 300 + 3 * k, 200),
        })),
      },
    },
  }
}

export function roundOutline(points: number, radius: number, x: number, y: number): Float64Array {
  const values = new Float64Array(points * POINT_STRIDE)
  const handle = (4 / 3) * Math.tan(Math.PI / (2 * points)) * radius
  for (let i = 0; i < points; i++) {
    const a = (i / points) * 2 * Math.PI
    const [c, s] = [Math.cos(a), Math.sin(a)]
    values.set([x + radius * c, y + radius * s, s * handle, -c * handle, -s * handle, c * handle], i * POINT_STRIDE)
  }
  return values
}

/** A batch as an artist's browser sends it. */
export function testBatch(patches: Patch[], overrides: Partial<EditBatch> = {}): EditBatch {
  return {
    batchId: newId(),
    clientId: 'client',
    clientSequence: 0,
    author: 'Ida',
    baseSequence: 0,
    schemaVersion: SCHEMA_VERSION,
    label: 'edit',
    undoes: null,
    patches,
    ...overrides,
  }
}

/** The document with patches that must fit. */
export function withPatches(document: RotoDocument, patches: Patch[]): RotoDocument {
  const next = applyBatch(document, testBatch(patches))
  if (isConflict(next)) throw new Error(next.reason)
  return next
}

export function testTrack(id: string): Track {
  return {
    ...NEW_TRACK_FIELDS,
    kind: 'track',
    id,
    name: id,
    model: 'perspective',
    order: 0,
    referenceFrame: 1001,
    outlines: [Float64Array.of(200, 100, 400, 100, 400, 300, 200, 300)],
    minimumMatch: 0.7,
    pivot: [300, 200],
    blocks: [],
  }
}
