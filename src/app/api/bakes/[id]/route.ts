import { bakedDoc, db, route } from '@/server'

type Context = { params: Promise<{ id: string }> }
export const dynamic = 'force-dynamic'
/** The shot that it is of. */
export const GET = route<Context>(async (_request, { params }) => Response.json(await bakedDoc(db(), (await params).id)))
