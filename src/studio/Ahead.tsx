'use client'
import { prepareWorkers } from './workers'

if (typeof window !== 'undefined') prepareWorkers()

/** Stands before the page, whose code takes longer to arrive: the workers load beside it. */
export function Ahead() {
  return null
}
