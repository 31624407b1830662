import { bytesOf, dataFolder, db, PACKAGE_BYTES, route, unpackShot } from '@/server'

/** A large file over a slow line takes a while. */
const UPLOAD_MS = 600000

export const POST = route<{ params: Promise<{ id: string }> }>(async (request, { params }) => {
  const zip = await bytesOf(request, PACKAGE_BYTES, UPLOAD_MS)
  return Response.json(await unpackShot(db(), dataFolder(), (await params).id, zip), { status: 201 })
})
