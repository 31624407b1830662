import { bytesOf, dataFolder, db, PICTURE_LIMIT_BYTES, readPicture, route, savePicture } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const dynamic = 'force-dynamic'
export const GET = route<Context>(async (_request, { params }) => {
  const picture = readPicture(dataFolder(), (await params).id)
  // A new shot has none yet: browsers log a 404 as an error in their console.
  if (!picture) return new Response(null, { status: 204, headers: { 'cache-control': 'no-cache' } })
  return new Response(picture as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'image/jpeg', 'cache-control': 'no-cache' } })
})
export const PUT = route<Context>(async (request, { params }) => {
  await savePicture(db(), dataFolder(), (await params).id, await bytesOf(request, PICTURE_LIMIT_BYTES))
  return Response.json({ ok: true })
})
