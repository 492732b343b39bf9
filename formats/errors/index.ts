/** Bytes that are not what they should be; `code` tells machines what is wrong, `message` people. */
export class FormatError extends Error {
  constructor(
    readonly code: string,
    message: string,
  ) {
    super(message)
    this.name = 'FormatError'
  }
}
