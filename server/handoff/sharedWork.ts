import { deserialize, serialize } from 'node:v8'
import { newId } from '@tender-lasso/core/document'
import type { FrameWork } from './write'

/** What writing the frames of a delivery needs, in memory that threads share: it is given to them with each frame. */
export interface SharedWork {
  /** Another one for each work: a thread unpacks it once. */
  id: string
  packed: SharedArrayBuffer
}

export function shareWork(work: FrameWork): SharedWork {
  const bytes = serialize(work)
  const packed = new SharedArrayBuffer(bytes.length)
  new Uint8Array(packed).set(bytes)
  return { id: newId(), packed }
}

/** The work in memory of its own: what it holds may be read by what refuses shared memory. */
export const unpackWork = ({ packed }: SharedWork): FrameWork =>
  deserialize(Buffer.from(new Uint8Array(packed))) as FrameWork
