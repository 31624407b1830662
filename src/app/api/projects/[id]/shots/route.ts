import * as z from 'zod'
import { body, createShot, db, route } from '@/server'

export const POST = route<{ params: Promise<{ id: string }> }>(async (request, { params }) => {
  const { doc } = await body(request, z.strictObject({ doc: z.unknown() }))
  return Response.json(await createShot(db(), (await params).id, doc), { status: 201 })
})
