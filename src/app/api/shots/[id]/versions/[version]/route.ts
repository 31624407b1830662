import { db, readVersion, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route<{ params: Promise<{ id: string; version: string }> }>(async (_request, { params }) => {
  const { id, version } = await params
  return Response.json(await readVersion(db(), id, version))
})
