import path from 'node:path'
import { z } from 'zod'

const settingsSchema = z.object({
  DATABASE_URL: z.string().startsWith('postgres'),
  TENDER_LASSO_DATA: z.string().min(1),
})

export interface Settings {
  databaseUrl: string
  dataFolder: string
  /** Uploads under way. */
  uploads: string
  /** Originals by content hash. */
  originals: string
  /** Frames made from the originals, one folder a shot. */
  frames: string
  /** Written hand-offs, one folder an export. */
  exports: string
}

/** @throws Error naming the variable that is missing */
export function readSettings(environment: Record<string, string | undefined> = process.env): Settings {
  const parsed = settingsSchema.safeParse(environment)
  if (!parsed.success) {
    throw new Error(`The variable ${parsed.error.issues[0]?.path.join('.')} is not set; start with bin/start`)
  }
  const dataFolder = path.resolve(parsed.data.TENDER_LASSO_DATA)
  const below = (name: string) => path.join(dataFolder, name)
  return {
    databaseUrl: parsed.data.DATABASE_URL,
    dataFolder,
    uploads: below('uploads'),
    originals: below('originals'),
    frames: below('frames'),
    exports: below('exports'),
  }
}
