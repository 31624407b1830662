import * as z from 'zod'
import { body, dataFolder, db, deleteJob, hastenJob, resumeJob, route, stopJob } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const POST = route<Context>(async (request, { params }) => {
  const { action } = await body(request, z.strictObject({ action: z.enum(['stop', 'resume', 'hasten']) }))
  await { stop: stopJob, resume: resumeJob, hasten: hastenJob }[action](db(), (await params).id)
  return Response.json({ ok: true })
})
export const DELETE = route<Context>(async (_request, { params }) => {
  await deleteJob(db(), dataFolder(), (await params).id)
  return Response.json({ ok: true })
})
