import { createProject, projectNameSchema } from '@tender-lasso/server/shots'
import { z } from 'zod'
import { bodyOf, respond } from '../../../api/respond'

const body = z.object({ name: projectNameSchema })

export const POST = respond(async (request) => {
  const { name } = await bodyOf(request, body)
  return Response.json({ id: await createProject(name) }, { status: 201 })
})
