/** Something the caller can be told, with the HTTP status and a stable code (RFC 9457 problem type). */
export class Problem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message)
    this.name = 'Problem'
  }
}

export const notFound = (what: string) => new Problem(404, 'not-found', `${what} does not exist (any more)`)
