import { ASSET_LIMIT_BYTES, dataFolder, db, Failure, route, storeAsset } from '@/server'

export const POST = route(async (request) => {
  const name = new URL(request.url).searchParams.get('name') ?? 'mesh'
  if (Number(request.headers.get('content-length') ?? 0) > ASSET_LIMIT_BYTES)
    throw new Failure(413, `the file is larger than ${ASSET_LIMIT_BYTES / 1048576} MB`)
  if (!request.body) throw new Failure(400, 'the request has no file in it')
  return Response.json(await storeAsset(db(), dataFolder(), name, request.body as unknown as AsyncIterable<Uint8Array>), { status: 201 })
})
