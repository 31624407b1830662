import { body, createRender, dataFolder, db, listJobs, renderSettings, route } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const dynamic = 'force-dynamic'
export const GET = route<Context>(async (_request, { params }) => Response.json(await listJobs(db(), dataFolder(), (await params).id)))
export const POST = route<Context>(async (request, { params }) =>
  Response.json(await createRender(db(), dataFolder(), (await params).id, await body(request, renderSettings)), { status: 201 }),
)
