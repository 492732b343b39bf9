/** What a failure of the machine means for the artist: what happened, what is safe, what to do. */
export function wordsOfFailure(error: unknown): string {
  const code = (error as { code?: unknown } | null)?.code
  if (code === 'ENOSPC' || code === 'EDQUOT') {
    return 'The disk is full. What was finished is kept: free some space, then try again'
  }
  if (code === 'EACCES' || code === 'EPERM' || code === 'EROFS') {
    return 'The data folder cannot be written. What was finished is kept: make it writable, then try again'
  }
  if (code === 'EMFILE' || code === 'ENFILE') {
    return 'The machine has too many files open just now. What was finished is kept: try again in a moment'
  }
  const words = String(error instanceof Error ? error.message : error).split('\n')[0]
  return `Something unforeseen went wrong (${words}). What was finished is kept: try again`
}
