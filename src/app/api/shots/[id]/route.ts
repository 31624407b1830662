import * as z from 'zod'
import { body, dataFolder, db, deleteShot, readShot, route, saveShot } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const dynamic = 'force-dynamic'
export const GET = route<Context>(async (_request, { params }) => Response.json(await readShot(db(), (await params).id)))
export const PUT = route<Context>(async (request, { params }) => {
  const { revision, doc } = await body(request, z.strictObject({ revision: z.int().min(1), doc: z.unknown() }))
  return Response.json(await saveShot(db(), (await params).id, revision, doc))
})
export const DELETE = route<Context>(async (_request, { params }) => {
  await deleteShot(db(), dataFolder(), (await params).id)
  return Response.json({ ok: true })
})
