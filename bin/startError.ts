/** A message for the person at the terminal; no stack is shown for it. */
export class StartError extends Error {}
