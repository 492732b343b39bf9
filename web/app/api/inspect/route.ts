import { inspectFiles } from '@tender-lasso/server/media'
import { z } from 'zod'
import { bodyOf, respond } from '../../../api/respond'
import { uploadedFiles, uploadedFileSchema } from '../../../api/uploads'

const body = z.object({ files: z.array(uploadedFileSchema).min(1).max(20_000) })

export const POST = respond(async (request) => {
  const { files } = await bodyOf(request, body)
  return Response.json(await inspectFiles(await uploadedFiles(files)))
})
