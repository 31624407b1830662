import { makePreview, PREVIEW_LIMIT_BYTES, pieces, route } from '@/server'

/** JPEG pictures one after the other; the answer is an MP4. */
export const POST = route(async (request) => {
  const rate = new URL(request.url).searchParams.get('rate') ?? ''
  const bytes = await makePreview(rate, pieces(request, PREVIEW_LIMIT_BYTES, 120000))
  return new Response(bytes as Uint8Array<ArrayBuffer>, { headers: { 'content-type': 'video/mp4' } })
})
