'use client'
import { useState } from 'react'
import { Modal } from '../dialogs/Modal'
import { Button } from '../ui'

/** A dialog that asks for a name. */
export function Ask({
  title,
  start,
  go,
  button,
  close,
}: {
  title: string
  start: string
  go: (name: string) => Promise<void>
  button: string
  close: () => void
}) {
  const [name, setName] = useState(start)
  return (
    <Modal open onClose={close} title={title}>
      <form
        className="flex gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (!name.trim()) return
          close()
          void go(name.trim())
        }}
      >
        <input
          // biome-ignore lint/a11y/noAutofocus: the dialog asks for just this
          autoFocus
          value={name}
          maxLength={200}
          onFocus={(e) => e.target.select()}
          onChange={(e) => setName(e.target.value)}
          aria-label="Name"
          placeholder="Name"
          className="h-7 min-w-0 flex-1 rounded-md border border-twig bg-night px-2 outline-none"
        />
        <Button main={button !== 'Delete'} danger={button === 'Delete'} type="submit" disabled={!name.trim()}>
          {button}
        </Button>
      </form>
    </Modal>
  )
}
