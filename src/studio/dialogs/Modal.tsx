'use client'
import { X } from 'lucide-react'
import { Dialog } from 'radix-ui'
import type { ReactNode } from 'react'
import { cx, IconButton } from '../ui'

export function Modal({
  open,
  onClose,
  title,
  children,
  width = 'w-[440px]',
}: {
  open: boolean
  onClose: () => void
  title: string
  children: ReactNode
  width?: string
}) {
  return (
    <Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
      <Dialog.Portal>
        <Dialog.Overlay className="fixed inset-0 z-40 bg-night/70" />
        <Dialog.Content
          aria-describedby={undefined}
          onOpenAutoFocus={(e) => {
            // Not the first button: its tooltip would open and take the first Escape. A field that asked for it has the focus already.
            e.preventDefault()
            const content = e.currentTarget as HTMLElement
            if (!content.contains(document.activeElement)) content.focus()
          }}
          className={cx(
            'fixed top-[12%] left-1/2 z-40 max-h-[80%] max-w-[94vw] -translate-x-1/2 overflow-y-auto rounded-md border border-bark bg-pine p-4 shadow-xl outline-none',
            width,
          )}
        >
          <div className="mb-3 flex items-center justify-between">
            <Dialog.Title className="font-semibold text-subtitle">{title}</Dialog.Title>
            <Dialog.Close asChild>
              <IconButton name="Close">
                <X size={15} strokeWidth={1.5} />
              </IconButton>
            </Dialog.Close>
          </div>
          {children}
        </Dialog.Content>
      </Dialog.Portal>
    </Dialog.Root>
  )
}
