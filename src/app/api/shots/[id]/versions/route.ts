import { body, db, listVersions, nameSchema, nameVersion, route } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const dynamic = 'force-dynamic'
export const GET = route<Context>(async (_request, { params }) => Response.json(await listVersions(db(), (await params).id)))
export const POST = route<Context>(async (request, { params }) =>
  Response.json(await nameVersion(db(), (await params).id, (await body(request, nameSchema)).name), { status: 201 }),
)
