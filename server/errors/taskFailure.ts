import { Problem } from './problem'

/** What is left of an error between threads, which would lose all but its message. */
export interface TaskFailure {
  /** Of a Problem; null for what nobody has foreseen. */
  status: number | null
  code: string | undefined
  message: string
}

export function failureOfTask(error: unknown): TaskFailure {
  const message = error instanceof Error ? error.message : String(error)
  if (error instanceof Problem) return { status: error.status, code: error.code, message }
  return { status: null, code: (error as { code?: string } | null)?.code, message }
}

/** The error it was. */
export function errorOfTask({ status, code, message }: TaskFailure): Error {
  if (status !== null) return new Problem(status, code ?? 'failed', message)
  return Object.assign(new Error(message), { code })
}
