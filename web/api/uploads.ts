import { stat } from 'node:fs/promises'
import path from 'node:path'
import { FileStore } from '@tus/file-store'
import { Server } from '@tus/server'
import { Problem } from '@tender-lasso/server/errors'
import type { SourceFile } from '@tender-lasso/server/media'
import { readSettings } from '@tender-lasso/server/settings'
import { diskSpace } from '@tender-lasso/server/storage'
import { z } from 'zod'

const UPLOAD_PATH = '/api/uploads'
const LARGEST_UPLOAD = 64 * 2 ** 30
/** Bytes that an upload leaves for all else that is stored. */
const LEFT_FREE = 1e9

let server: Server | null = null

/** Resumable uploads by the tus protocol, into the data folder. */
export function uploadServer(): Server {
  server ??= new Server({
    path: UPLOAD_PATH,
    datastore: new FileStore({ directory: readSettings().uploads }),
    maxSize: LARGEST_UPLOAD,
    relativeLocation: true,
    async onUploadCreate(_request, { size, metadata }) {
      const { free } = await diskSpace()
      // What it is made into takes room as well: what does not fit now is refused before it is sent.
      if (size === undefined || size < free - LEFT_FREE) return {}
      const [needed, left] = [size, free].map((bytes) => (bytes / 1e9).toFixed(1))
      const body = `${metadata?.filename ?? 'The file'} has ${needed} GB, and the disk has ${left} GB free: free some space first`
      throw { status_code: 507, body }
    },
  })
  return server
}

export const uploadedFileSchema = z.object({
  upload: z.string().regex(/^[a-f0-9]{32}$/, 'not an upload'),
  name: z
    .string()
    .min(1)
    .max(255)
    .refine((name) => !/[/\\\0]/.test(name), 'a file name has no path in it'),
})

/** Where finished uploads lie. The ids are checked by the schema, so no path can leave the folder. */
export async function uploadedFiles(files: readonly z.infer<typeof uploadedFileSchema>[]): Promise<SourceFile[]> {
  return Promise.all(
    files.map(async ({ upload, name }) => {
      const file = path.join(readSettings().uploads, upload)
      const gone = () => new Problem(422, 'no-such-upload', `The upload of ${name} is not there any more: open the file again`) // prettier-ignore
      const { size } = await stat(file).catch(() => {
        throw gone()
      })
      const wanted = await uploadServer()
        .datastore.getUpload(upload)
        .catch(() => {
          throw gone()
        })
      if (wanted.size !== size) {
        throw new Problem(422, 'unfinished-upload', `${name} has not been sent whole (${size} of ${wanted.size ?? '?'} bytes): send it again`) // prettier-ignore
      }
      return { name, path: file }
    }),
  )
}
