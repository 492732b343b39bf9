/** What the server said when it could not do something: words for the artist, and the stable code. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message)
    this.name = 'ApiProblem'
  }
}

/** @throws ApiProblem from the server's problem details, or code `offline` when it cannot be reached */
export async function api<Answer>(path: string, options: { method?: string; body?: string } = {}): Promise<Answer> {
  let response: Response
  try {
    response = await fetch(path, {
      method: options.method ?? (options.body === undefined ? 'GET' : 'POST'),
      headers: options.body === undefined ? {} : { 'Content-Type': 'application/json' },
      body: options.body,
    })
  } catch {
    throw new ApiProblem(0, 'offline', 'The server cannot be reached')
  }
  if (response.status === 204) return undefined as Answer
  const answer: unknown = await response.json().catch(() => null)
  if (response.ok) return answer as Answer
  const problem = answer as { title?: string; detail?: string } | null
  throw new ApiProblem(
    response.status,
    problem?.title ?? 'unexpected',
    problem?.detail ?? `The server answered with status ${response.status}`,
  )
}

export function wordsOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
