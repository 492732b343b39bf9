/** Arrays that are written over again and again, one of each length: for numbers that are used at once and not kept. */
export class Rooms {
  private readonly byLength = new Map<number, Float64Array>()

  of(length: number): Float64Array {
    let room = this.byLength.get(length)
    if (!room) this.byLength.set(length, (room = new Float64Array(length)))
    return room
  }
}
