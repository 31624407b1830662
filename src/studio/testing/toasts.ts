import type { ReactElement } from 'react'
import { toast } from 'sonner'
import { afterAll, vi } from 'vitest'

/** What the page says in toasts from here to the end of the file: the last of it, and whether it is a problem. */
export function saidInToasts(): () => { text: string; problem: boolean } {
  const shown = vi.spyOn(toast, 'custom').mockReturnValue(0)
  afterAll(() => shown.mockRestore())
  return () => {
    const box = shown.mock.lastCall?.[0](0) as ReactElement<{ role: string; children: [string] }>
    return { text: box.props.children[0], problem: box.props.role === 'alert' }
  }
}
