import { CoreError } from '@tender-lasso/core/errors'
import { isDatabaseAway } from '@tender-lasso/server/database'
import { log } from '@tender-lasso/server/log'
import { notFound, Problem } from '@tender-lasso/server/errors'
import { largestBody, readJson } from '@tender-lasso/server/perimeter'
import { wordsOfFailure } from '@tender-lasso/server/store'
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
    return problem(422, 'invalid-input', wordsOfIssue(error.issues[0]))
  }
  log.error({ err: error }, 'a request failed unforeseen')
  if (isDatabaseAway(error)) {
    return problem(503, 'database-away', 'The database cannot be reached just now. What was stored is safe: try again in a moment') // prettier-ignore
  }
  return problem(500, 'unexpected', wordsOfFailure(error))
}

/** RFC 9457. @param more  further members of the problem */
export function problem(status: number, code: string, detail: string, more: object = {}): Response {
  return new Response(JSON.stringify({ type: `/problems/${code}`, title: code, status, detail, ...more }), {
    status,
    headers: { 'Content-Type': 'application/problem+json' },
  })
}

export type Params<Names extends string> = { params: Promise<Record<Names, string>> }

/** What each field is called on the screen. */
const FIELD_WORDS: Record<string, string> = {
  firstFrame: 'The first frame',
  pixelAspect: 'The pixel aspect',
  colourEncoding: 'The colour encoding',
  numerator: 'The rate',
  denominator: 'The rate',
  name: 'The name',
  since: 'The place in the log',
  range: 'The range of frames',
  partIds: 'The choice of Parts',
  files: 'The list of files',
}

function wordsOfIssue(issue: z.core.$ZodIssue | undefined): string {
  if (!issue) return 'The request is not valid'
  const field = issue.path.findLast((part): part is string => typeof part === 'string')
  const subject = (field && FIELD_WORDS[field]) ?? (field ? `"${field}"` : 'The request')
  switch (issue.code) {
    case 'too_big':
      return issue.origin === 'string'
        ? `${subject} is too long: ${issue.maximum} letters at most`
        : `${subject} is too large: ${issue.maximum} at most`
    case 'too_small':
      return issue.message.startsWith('Too small') ? `${subject} is too small: ${issue.minimum} at least` : `${subject}: ${issue.message}` // prettier-ignore
    case 'custom':
      return `${subject}: ${issue.message}`
    default:
      return `${subject} is missing or not what it should be`
  }
}

/** The ids in an address. @throws Problem 404 when one cannot be an id at all */
export async function idsOf<Names extends string>({ params }: Params<Names>): Promise<Record<Names, string>> {
  const ids = await params
  for (const id of Object.values<string>(ids))
    if (!/^[A-Za-z0-9_-]{1,60}$/.test(id)) throw notFound('What was asked for')
  return ids
}

/** The body of a request, as its schema has it. @throws Problem or ZodError when it is anything else */
export async function bodyOf<Schema extends z.ZodType>(request: Request, schema: Schema): Promise<z.infer<Schema>> {
  return schema.parse(await readJson(request, largestBody(new URL(request.url).pathname)))
}
