import * as z from 'zod'
import { dataFolder, db, jobZip, route } from '@/server'

export const dynamic = 'force-dynamic'
const kinds = z.enum(['png', 'png16', 'exr'], { error: 'must be png, png16 or exr' })
export const GET = route<{ params: Promise<{ id: string; kind: string }> }>(async (_request, { params }) => {
  const { id, kind } = await params
  const { name, stream } = await jobZip(db(), dataFolder(), id, kinds.parse(kind))
  return new Response(stream, {
    headers: { 'content-type': 'application/zip', 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` },
  })
})
