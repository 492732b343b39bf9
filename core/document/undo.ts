/** What the log must tell about an artist's batches, in order, to know what undo and redo would do. */
export interface LogEntry {
  batchId: string
  author: string
  label: string
  undoes: string | null
}

/** One edit of the past in words: what a history is made of. */
export interface HistoryEntry extends LogEntry {
  sequence: number
  /** When it was committed, ISO 8601. */
  at: string
}

/**
 * The artist's undo and redo stacks as the log implies them: an ordinary edit clears the redo stack, a batch that
 * undoes an edit moves it over, a batch that undoes that one moves it back. Nothing but the log is kept, so a reload
 * loses nothing.
 */
export function undoStacks<Entry extends LogEntry>(
  log: readonly Entry[],
  author: string,
): { undo: Entry[]; redo: Entry[] } {
  let undo: Entry[] = []
  let redo: Entry[] = []
  for (const entry of log) {
    if (entry.author !== author) continue
    if (entry.undoes === null) {
      undo.push(entry)
      redo = []
    } else if (undo.some((e) => e.batchId === entry.undoes)) {
      undo = undo.filter((e) => e.batchId !== entry.undoes)
      redo.push(entry)
    } else if (redo.some((e) => e.batchId === entry.undoes)) {
      redo = redo.filter((e) => e.batchId !== entry.undoes)
      undo.push(entry)
    }
  }
  return { undo, redo }
}
