import { dataFolder, db, packProject, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route<{ params: Promise<{ id: string }> }>(async (_request, { params }) => {
  const { name, stream } = await packProject(db(), dataFolder(), (await params).id)
  return new Response(stream, {
    headers: { 'content-type': 'application/zip', 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` },
  })
})
