import { body, dataFolder, db, deleteProject, nameSchema, renameProject, route } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const PATCH = route<Context>(async (request, { params }) => {
  await renameProject(db(), (await params).id, (await body(request, nameSchema)).name)
  return Response.json({ ok: true })
})
export const DELETE = route<Context>(async (_request, { params }) => {
  await deleteProject(db(), dataFolder(), (await params).id)
  return Response.json({ ok: true })
})
