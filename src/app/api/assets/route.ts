import { ASSET_LIMIT_BYTES, dataFolder, db, pieces, route, storeAsset } from '@/server'

/** A large file over a slow line takes a while; the server's own limit for a request is the same. */
const UPLOAD_MS = 120000

export const POST = route(async (request) => {
  const name = new URL(request.url).searchParams.get('name') ?? 'mesh'
  return Response.json(await storeAsset(db(), dataFolder(), name, pieces(request, ASSET_LIMIT_BYTES, UPLOAD_MS)), { status: 201 })
})
