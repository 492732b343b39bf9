import { createShot, shotSettingsSchema } from '@tender-lasso/server/shots'
import { z } from 'zod'
import { bodyOf, respond } from '../../../api/respond'
import { uploadedFiles, uploadedFileSchema, uploadServer } from '../../../api/uploads'

const body = z.object({
  projectId: z.string().min(1).max(60),
  files: z.array(uploadedFileSchema).min(1).max(20_000),
  settings: shotSettingsSchema,
})

export const POST = respond(async (request) => {
  const { projectId, files, settings } = await bodyOf(request, body)
  const created = await createShot(projectId, await uploadedFiles(files), settings)
  // The originals are in the store now; what was uploaded is not needed twice.
  await Promise.all(
    files.map(({ upload }) =>
      uploadServer()
        .datastore.remove(upload)
        .catch(() => undefined),
    ),
  )
  return Response.json(created, { status: 201 })
})
