'use client'
import Link from 'next/link'
import { Tooltip } from 'radix-ui'
import { useEffect, useState } from 'react'
import { api, messageOf } from './api'
import { tellBakes, useBakes } from './bakes'
import { Board } from './board/Board'
import { recallBoard } from './board/place'
import { noteSelection } from './commands'
import { CameraDialog } from './dialogs/CameraDialog'
import { CompareDialog } from './dialogs/CompareDialog'
import { Conflict, Shortcuts, Versions } from './dialogs/dialogs'
import { Palette } from './dialogs/Palette'
import { PreviewDialog } from './dialogs/PreviewDialog'
import { RenderDialog } from './dialogs/RenderDialog'
import { TrackedDialog } from './dialogs/TrackedDialog'
import { ElementsPanel } from './elements/ElementsPanel'
import { Header } from './Header'
import { adoptSaver, changedNow, keepPicture, leaveNow } from './page'
import { pause } from './playback'
import { rehearsed } from './rehearsal'
import { Saver } from './saver'
import type { Session } from './session'
import { onKey } from './shortcuts'
import { edit, loadStudio, setStudio, shotNow, studio, useStudio, watchShot } from './store'
import { TimeBar } from './time/TimeBar'
import { Toaster, toast } from './toast'
import { cx } from './ui'
import { Poster } from './view/Poster'
import { ViewPanel } from './view/ViewPanel'
import { takeOpening } from './workers'

/** Gives a new View what the page holds. */
function connect(session: Session | null): void {
  setStudio({ session, failure: null, contextLost: false })
  if (!session) return
  tellBakes(session)
  session.setShot(rehearsed(shotNow(), studio()))
  session.show(studio().playhead)
  session.listen()
  // The newest picture for the projects page, once there is one to take.
  setTimeout(() => void keepPicture(), 15000)
}
/** One shot: opened, worked on, saved as it changes. */
export function ShotPage({ id }: { id: string }) {
  const [state, setState] = useState<{ kind: 'loading' } | { kind: 'open' } | { kind: 'failed'; message: string }>({ kind: 'loading' })
  useEffect(() => {
    let gone = false
    const open = async () => {
      try {
        const [loaded, bakes] = (await takeOpening(id)) ?? (await Promise.all([api.shot(id), api.bakes(id).catch(() => [])]))
        const draft = await Saver.draft(id, loaded.revision)
        if (gone) return
        loadStudio(id, { id: loaded.projectId, name: loaded.project }, loaded.doc)
        setStudio({ save: { kind: 'saved', at: loaded.saved }, bakes })
        recallBoard()
        adoptSaver(new Saver(id, draft.kind === 'conflict' ? draft.revision : loaded.revision, (save) => setStudio({ save })))
        watchShot((shot) => {
          studio().session?.setShot(rehearsed(shot, studio()))
          changedNow()
        })
        setState({ kind: 'open' })
        document.title = `${loaded.doc.name} – Fox Ember`
        if (draft.kind !== 'none') {
          edit('what this browser had kept', (s) => void Object.assign(s, draft.doc))
          if (draft.kind === 'mine') toast('Changes that had not reached the server are back.')
        }
      } catch (error) {
        if (!gone) setState({ kind: 'failed', message: messageOf(error) })
      }
    }
    void open()
    const leave = () => leaveNow()
    const hide = () => document.visibilityState === 'hidden' && leaveNow()
    addEventListener('pagehide', leave)
    document.addEventListener('visibilitychange', hide)
    addEventListener('keydown', onKey)
    return () => {
      gone = true
      leaveNow()
      pause()
      removeEventListener('pagehide', leave)
      document.removeEventListener('visibilitychange', hide)
      removeEventListener('keydown', onKey)
      watchShot(() => {})
    }
  }, [id])
  if (state.kind === 'failed')
    return (
      <main className="grid h-full place-content-center gap-2 text-center">
        <p className="font-semibold text-title">This shot cannot be opened.</p>
        <p className="text-moss">{state.message}</p>
        <Link className="underline" href="/">
          Go to the projects
        </Link>
      </main>
    )
  if (state.kind === 'loading')
    return (
      <main className="relative h-full bg-night" aria-busy>
        {/* About where the View will be. */}
        <div className="absolute top-11 right-1 bottom-[388px] left-[220px]">
          <Poster id={id} />
        </div>
      </main>
    )
  return (
    <Tooltip.Provider>
      <Workplace />
    </Tooltip.Provider>
  )
}
function Workplace() {
  const viewOnly = useStudio((s) => s.viewOnly)
  const beside = useStudio((s) => s.beside)
  const selected = useStudio((s) => s.selected)
  useEffect(() => noteSelection(selected), [selected])
  useBakes()
  const solo = useStudio((s) => s.solo)
  const boost = useStudio((s) => s.boost)
  useEffect(() => {
    studio().session?.setShot(rehearsed(shotNow(), { solo, boost }))
  }, [solo, boost])
  return (
    <div className="flex h-full flex-col">
      {!viewOnly && <Header />}
      <div className="relative flex min-h-0 flex-1">
        {!viewOnly && <ElementsPanel />}
        <main className="flex min-w-0 flex-1 flex-col">
          <ViewPanel connect={connect} />
          <div className={cx(viewOnly && 'hidden')}>
            <TimeBar />
          </div>
        </main>
        {!viewOnly && beside && <Board />}
      </div>
      {!viewOnly && !beside && <Board />}
      <RenderDialog />
      <CompareDialog />
      <PreviewDialog />
      <CameraDialog />
      <TrackedDialog />
      <Palette />
      <Shortcuts />
      <Versions />
      <Conflict />
      <Toaster />
    </div>
  )
}
