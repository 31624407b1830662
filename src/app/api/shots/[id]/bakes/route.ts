import { bakeSettings, body, createBake, dataFolder, db, listBakes, route } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const dynamic = 'force-dynamic'
export const GET = route<Context>(async (_request, { params }) => Response.json(await listBakes(db(), dataFolder(), (await params).id)))
export const POST = route<Context>(async (request, { params }) =>
  Response.json(await createBake(db(), dataFolder(), (await params).id, await body(request, bakeSettings)), { status: 201 }),
)
