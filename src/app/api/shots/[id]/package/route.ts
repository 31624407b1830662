import { dataFolder, db, packShot, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route<{ params: Promise<{ id: string }> }>(async (request, { params }) => {
  const baked = new URL(request.url).searchParams.has('bakes')
  const { name, stream } = await packShot(db(), dataFolder(), (await params).id, baked)
  return new Response(stream, {
    headers: { 'content-type': 'application/zip', 'content-disposition': `attachment; filename*=UTF-8''${encodeURIComponent(name)}` },
  })
})
