import { body, createProject, dataFolder, db, listProjects, nameSchema, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route(async () => Response.json(await listProjects(db(), dataFolder())))
export const POST = route(async (request) =>
  Response.json(await createProject(db(), (await body(request, nameSchema)).name), { status: 201 }),
)
