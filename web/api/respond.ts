import { CoreError } from '@tender-lasso/core/errors'
import { Problem } from '@tender-lasso/server/errors'
import { z } from 'zod'

/** Runs a route handler and answers what it throws as RFC 9457 problem details. */
export function respond<Args extends unknown[]>(
  handler: (request: Request, ...args: Args) => Promise<Response>,
): (request: Request, ...args: Args) => Promise<Response> {
  return async (request, ...args) => {
    try {
      return await handler(request, ...args)
    } catch (error) {
      return problemOf(error)
    }
  }
}

function problemOf(error: unknown): Response {
  if (error instanceof Problem) return problem(error.status, error.code, error.message)
  if (error instanceof CoreError) return problem(422, error.code, error.message)
  if (error instanceof z.ZodError) {
    const issue = error.issues[0]
    const place = issue?.path.join('.')
    return problem(422, 'invalid-input', `${place ? `${place}: ` : ''}${issue?.message ?? 'not valid'}`)
  }
  if (error instanceof SyntaxError) return problem(400, 'invalid-json', 'The request is not valid JSON')
  console.error(error)
  return problem(503, 'unexpected', 'The server could not do this just now; nothing was changed. Try again.')
}

function problem(status: number, code: string, detail: string): Response {
  return new Response(JSON.stringify({ type: `/problems/${code}`, title: code, status, detail }), {
    status,
    headers: { 'Content-Type': 'application/problem+json' },
  })
}

export type Params<Names extends string> = { params: Promise<Record<Names, string>> }
