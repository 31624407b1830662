import { dataFolder, db, jobFile, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route<{ params: Promise<{ id: string; name: string }> }>(async (_request, { params }) => {
  const { id, name } = await params
  const file = await jobFile(db(), dataFolder(), id, name)
  return new Response(file.bytes as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': file.type, 'content-length': String(file.bytes.length), 'cache-control': 'private, max-age=60' },
  })
})
