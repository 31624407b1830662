import { db, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route(async () => {
  await db().sequelize.authenticate()
  return Response.json({ ok: true })
})
