import { dataFolder, db, jobSheet, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route<{ params: Promise<{ id: string }> }>(async (_request, { params }) => {
  const { name, bytes } = await jobSheet(db(), dataFolder(), (await params).id)
  return new Response(bytes as Uint8Array<ArrayBuffer>, {
    headers: { 'content-type': 'image/png', 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` },
  })
})
