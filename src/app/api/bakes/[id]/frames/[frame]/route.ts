import { bakeFrame, dataFolder, db, Failure, route } from '@/server'

type Context = { params: Promise<{ id: string; frame: string }> }
export const dynamic = 'force-dynamic'
export const GET = route<Context>(async (_request, { params }) => {
  const { id, frame } = await params
  if (!/^\d{1,7}$/.test(frame)) throw new Failure(404, 'this frame is not there')
  const bytes = await bakeFrame(db(), dataFolder(), id, Number(frame))
  return new Response(new Uint8Array(bytes), { headers: { 'content-type': 'application/octet-stream', 'cache-control': 'no-store' } })
})
