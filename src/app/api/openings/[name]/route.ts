import { bytesOf, dataFolder, OPENING_LIMIT_BYTES, readOpening, route, saveOpening, typeOfOpening } from '@/server'

type Context = { params: Promise<{ name: string }> }
export const dynamic = 'force-dynamic'
/** No content where nobody has computed it: that is no error, and browsers would write one down. */
export const GET = route<Context>(async (_request, { params }) => {
  const { name } = await params
  const bytes = readOpening(dataFolder(), name) as Uint8Array<ArrayBuffer> | null
  const headers = { 'content-type': typeOfOpening(name), 'cache-control': 'no-cache' }
  return new Response(bytes, { status: bytes ? 200 : 204, headers })
})
export const PUT = route<Context>(async (request, { params }) => {
  await saveOpening(dataFolder(), (await params).name, await bytesOf(request, OPENING_LIMIT_BYTES))
  return Response.json({ ok: true })
})
