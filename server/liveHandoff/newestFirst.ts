/** Tasks that wait for a thread, the newest in front: who scrubs wants the frame that is looked at now. */
export class NewestFirst<Task> {
  private readonly waiting: Task[] = []

  get size(): number {
    return this.waiting.length
  }

  push(task: Task): void {
    this.waiting.push(task)
  }

  shift(): Task | null {
    return this.waiting.pop() ?? null
  }

  remove(task: Task): void {
    const at = this.waiting.indexOf(task)
    if (at >= 0) this.waiting.splice(at, 1)
  }
}
