/** A growing list of points x, y without garbage: flattening appends to it. */
export class PointBuffer {
  private data = new Float64Array(1024)
  length = 0

  push(x: number, y: number) {
    if (this.length + 2 > this.data.length) {
      const grown = new Float64Array(this.data.length * 2)
      grown.set(this.data)
      this.data = grown
    }
    this.data[this.length++] = x
    this.data[this.length++] = y
  }

  toArray(): Float64Array {
    return this.data.slice(0, this.length)
  }
}
