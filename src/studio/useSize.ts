'use client'
import { type RefObject, useLayoutEffect, useState } from 'react'

/** The inner size of an element in CSS pixels, followed while it is there; 0 × 0 before the first layout. */
export function useSize(ref: RefObject<Element | null>): { width: number; height: number } {
  const [size, setSize] = useState({ width: 0, height: 0 })
  useLayoutEffect(() => {
    const el = ref.current
    if (!el) return
    const o = new ResizeObserver(() => {
      const [width, height] = [Math.round(el.clientWidth), Math.round(el.clientHeight)]
      setSize((old) => (old.width === width && old.height === height ? old : { width, height }))
    })
    o.observe(el)
    return () => o.disconnect()
  }, [ref])
  return size
}
