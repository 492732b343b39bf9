import type { Readable } from 'node:stream'

/** A stored value open for several reads of ranges. */
export interface OpenValue {
  /**
   * Bytes from `from` on into `target` at `at`.
   *
   * @returns how many there were, `length` or fewer at the end
   */
  readInto(target: Uint8Array, at: number, length: number, from: number): Promise<number>
  close(): Promise<void>
}

/** Size of a value, and when it was last put; of what lies below a key, when something came or went there. */
export interface StoredAbout {
  bytes: number
  /** Milliseconds. */
  changedAt: number
}

/**
 * Where files are kept: values under keys of names with slashes between, see `keys`. A value is there whole or not at all.
 * What does not exist rejects with code ENOENT.
 */
export interface Store {
  put(key: string, value: Uint8Array | string): Promise<void>
  /** Puts a file of this machine, which stays as it is. */
  putFile(key: string, file: string): Promise<void>
  /** A value that is there counts as new, so that it is not collected. */
  renew(key: string): Promise<void>
  read(key: string): Promise<Uint8Array>
  open(key: string): Promise<OpenValue>
  stream(key: string): Readable
  about(key: string): Promise<StoredAbout | null>
  /** Names directly below a key, of values and of what has values below; none where there is nothing. */
  list(key: string): Promise<string[]>
  /** Bytes of all values below a key. */
  bytesBelow(key: string): Promise<number>
  /** Takes away a value, or all that lies below a key; nothing there is as good. */
  delete(key: string): Promise<void>
  /** A value as a file of this machine, for programs that read files: not to be written. */
  fileOf(key: string): Promise<string>
}
