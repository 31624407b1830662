import { Readable } from 'node:stream'
import { assetStream, dataFolder, db, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route<{ params: Promise<{ hash: string }> }>(async (_request, { params }) => {
  const { stream, bytes } = await assetStream(db(), dataFolder(), (await params).hash)
  return new Response(Readable.toWeb(stream) as unknown as ReadableStream, {
    headers: {
      'content-type': 'application/octet-stream',
      'content-length': String(bytes),
      'cache-control': 'private, max-age=31536000, immutable',
    },
  })
})
