/**
 * Whether an error says that the database cannot be reached just now: it restarts, or its connection broke. What was asked
 * may be asked again. Codes: Node's network errors and PostgreSQL's classes 08 (connection), 53 (resources) and 57P
 * (shutdown, starting up).
 */
export function isDatabaseAway(error: unknown): boolean {
  const { code, message, cause } = (error ?? {}) as { code?: unknown; message?: unknown; cause?: unknown }
  if (/^(ECONN|EPIPE|ETIMEDOUT|ENOTFOUND|08|53|57P)/.test(String(code ?? ''))) return true
  if (/connection (terminated|timeout|ended|closed)|timeout (exceeded|acquiring)|unexpected postmaster exit|socket hang up/i.test(String(message ?? ''))) return true // prettier-ignore
  return cause !== undefined && cause !== error && isDatabaseAway(cause)
}
