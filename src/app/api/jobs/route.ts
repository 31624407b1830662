import { dataFolder, db, listJobs, route } from '@/server'

export const dynamic = 'force-dynamic'
export const GET = route(async () => Response.json(await listJobs(db(), dataFolder())))
