/** Files of frames that were asked for lately, in memory, the oldest dropped first. */
export class RecentFrames {
  private readonly files = new Map<string, Uint8Array<ArrayBuffer>>()
  private bytes = 0

  constructor(private readonly mostBytes: number) {}

  get(key: string): Uint8Array<ArrayBuffer> | null {
    const file = this.files.get(key)
    if (!file) return null
    this.files.delete(key)
    this.files.set(key, file)
    return file
  }

  put(key: string, file: Uint8Array<ArrayBuffer>): void {
    this.drop(key)
    this.files.set(key, file)
    this.bytes += file.length
    for (const oldest of this.files.keys()) {
      if (this.bytes <= this.mostBytes) return
      this.drop(oldest)
    }
  }

  private drop(key: string) {
    this.bytes -= this.files.get(key)?.length ?? 0
    this.files.delete(key)
  }
}
