import path from 'node:path'
import { z } from 'zod'

const settingsSchema = z.object({
  DATABASE_URL: z.string().startsWith('postgres'),
  TENDER_LASSO_DATA: z.string().min(1),
  /** Names under which the application is reached beside localhost, with commas between: behind a proxy, for instance. */
  TENDER_LASSO_HOSTS: z.string().default(''),
  /** Seconds after which a worker's chunk is free when it does not renew its lease. */
  TENDER_LASSO_LEASE: z.coerce.number().min(1).max(600).default(10),
  /** Folder into which finished deliveries are copied as well; empty: none. */
  TENDER_LASSO_DELIVERIES: z.string().trim().default(''),
})

export interface Settings {
  databaseUrl: string
  dataFolder: string
  /** Uploads under way. */
  uploads: string
  hosts: string[]
  leaseSeconds: number
  deliveries: string | null
}

/** @throws Error naming the variable that is missing */
export function readSettings(environment: Record<string, string | undefined> = process.env): Settings {
  const parsed = settingsSchema.safeParse(environment)
  if (!parsed.success) {
    const issue = parsed.error.issues[0]
    throw new Error(
      `The variable ${issue?.path.join('.')} is missing or wrong (${issue?.message}); start with bin/start`,
    )
  }
  const dataFolder = path.resolve(parsed.data.TENDER_LASSO_DATA)
  return {
    databaseUrl: parsed.data.DATABASE_URL,
    dataFolder,
    uploads: path.join(dataFolder, 'uploads'),
    hosts: parsed.data.TENDER_LASSO_HOSTS.split(',').flatMap((host) => host.trim().toLowerCase() || []),
    leaseSeconds: parsed.data.TENDER_LASSO_LEASE,
    deliveries: parsed.data.TENDER_LASSO_DELIVERIES === '' ? null : path.resolve(parsed.data.TENDER_LASSO_DELIVERIES),
  }
}
