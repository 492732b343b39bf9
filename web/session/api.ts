/** What the server said when it could not do something: words for the artist, and the stable code. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    /** All that the problem says (RFC 9457), further members among it. */
    readonly members: Record<string, unknown> = {},
  ) {
    super(message)
    this.name = 'ApiProblem'
  }
}

interface ApiOptions {
  method?: string
  body?: string
  /** Milliseconds after which no answer is taken for none. */
  patience?: number
}

/** @throws ApiProblem from the server's problem details, or code `offline` when it cannot be reached */
export async function api<Answer>(path: string, { method, body, patience }: ApiOptions = {}): Promise<Answer> {
  let response: Response
  let answer: unknown
  try {
    response = await fetch(path, {
      method: method ?? (body === undefined ? 'GET' : 'POST'),
      headers: body === undefined ? {} : { 'Content-Type': 'application/json' },
      body,
      signal: patience === undefined ? undefined : AbortSignal.timeout(patience),
    })
    if (response.status === 204) return undefined as Answer
    answer = await response.json().catch((error: unknown) => {
      // An answer that breaks off in the middle is none; one that is no JSON says what its status says.
      if (error instanceof SyntaxError) return null
      throw error
    })
  } catch {
    throw new ApiProblem(0, 'offline', 'The server cannot be reached')
  }
  if (response.ok && answer !== null) return answer as Answer
  throw problemOf(response, answer)
}

function problemOf(response: Response, answer: unknown): ApiProblem {
  const problem = answer as { title?: string; detail?: string } | null
  return new ApiProblem(
    response.ok ? 502 : response.status,
    problem?.title ?? 'unexpected',
    problem?.detail ?? `The server answered with status ${response.status}`,
    (problem as Record<string, unknown> | null) ?? {},
  )
}

/** A picture and what its headers say. @throws as {@link api}; AbortError when it is not wanted any more */
export async function pictureFrom(
  path: string,
  signal: AbortSignal,
): Promise<{ picture: ImageBitmap; headers: Headers }> {
  const response = await fetch(path, { signal }).catch(() => {
    signal.throwIfAborted()
    throw new ApiProblem(0, 'offline', 'The server cannot be reached')
  })
  if (!response.ok) throw problemOf(response, await response.json().catch(() => null))
  return { picture: await createImageBitmap(await response.blob()), headers: response.headers }
}

export function wordsOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error)
}
