import { dataFolder, db, pieces, route, storeVideo, VIDEO_LIMIT_BYTES } from '@/server'

/** A large file over a slow line takes a while; the server's own limit for a request is the same. */
const UPLOAD_MS = 120000

export const POST = route(async (request) => {
  const name = new URL(request.url).searchParams.get('name') ?? 'video'
  return Response.json(await storeVideo(db(), dataFolder(), name, pieces(request, VIDEO_LIMIT_BYTES, UPLOAD_MS)), { status: 201 })
})
