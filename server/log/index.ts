import pino from 'pino'

/**
 * What the server and the job process say of themselves: a line of JSON each, on the standard output.
 * `TENDER_LASSO_LOG` sets from which level on (trace, debug, info, warn, error, silent).
 */
export const log = pino({ level: process.env.TENDER_LASSO_LOG ?? 'info', base: undefined })
