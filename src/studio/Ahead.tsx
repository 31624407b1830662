'use client'
import { prepareWorkers } from './workers'

if (typeof window !== 'undefined') prepareWorkers(/^\/shot\/([\w-]+)/.exec(location.pathname)?.[1])

/** Stands before the page, whose code takes longer to arrive: the workers and the shot load beside it. */
export function Ahead() {
  return null
}
