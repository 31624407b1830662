'use client'
import { PackageOpen, Plus, Search } from 'lucide-react'
import Link from 'next/link'
import { useRouter } from 'next/navigation'
import { Tooltip } from 'radix-ui'
import { useCallback, useEffect, useState } from 'react'
import { api, messageOf, type ProjectHead } from '../api'
import { actOnJob, timeLeft, useJobs } from '../board/RendersTab'
import { newShot } from '../create'
import { Toaster, toast } from '../toast'
import { Button, cx, IconButton, Mark } from '../ui'
import { warmWorkers } from '../workers'
import { Ask } from './Ask'
import { MoreMenu } from './MoreMenu'
import { ShotCard } from './ShotCard'

const count = (n: number, word: string) => `${n} ${word}${n === 1 ? '' : 's'}`

const RETRY_MS = 2000
/** Shots and their pictures come first. */
const WARM_AFTER_MS = 400

const otherName = (name: string): string => `Nothing was deleted: the name is “${name}”; type just that.`
export function ProjectsPage() {
  const router = useRouter()
  const [projects, setProjects] = useState<ProjectHead[] | null>(null)
  const [problem, setProblem] = useState<string | null>(null)
  const [chosen, setChosen] = useState<string | null>(null)
  const [query, setQuery] = useState('')
  const [asking, setAsking] = useState<{ title: string; start: string; go: (name: string) => Promise<void>; button: string } | null>(null)
  const { jobs, reload: reloadJobs } = useJobs(null)
  const load = useCallback(async () => {
    try {
      setProjects(await api.projects())
      setProblem(null)
    } catch (error) {
      setProblem(messageOf(error))
    }
  }, [])
  useEffect(() => {
    void load()
  }, [load])
  // Whoever is here is about to open a shot: its page and its workers are read meanwhile.
  useEffect(() => {
    const timer = setTimeout(() => {
      warmWorkers()
      void import('../ShotPage')
    }, WARM_AFTER_MS)
    return () => clearTimeout(timer)
  }, [])
  // What is away comes back by itself, in the page too.
  useEffect(() => {
    if (!problem) return
    const again = setInterval(() => void load(), RETRY_MS)
    return () => clearInterval(again)
  }, [problem, load])
  const project = projects?.find((p) => p.id === chosen) ?? projects?.[0]
  const q = query.trim().toLowerCase()
  const shots = project?.shots.filter((s) => s.name.toLowerCase().includes(q)) ?? []
  const act = async (run: () => Promise<unknown>) => {
    try {
      await run()
    } catch (error) {
      toast(messageOf(error), true)
    }
    await load()
  }
  const newProject = () =>
    setAsking({
      title: 'New project',
      start: '',
      button: 'Make it',
      go: async (name) => act(async () => setChosen((await api.createProject(name)).id)),
    })
  const addShot = () =>
    project &&
    setAsking({
      title: `New shot in ${project.name}`,
      start: 'Untitled shot',
      button: 'Make it',
      go: async (name) => {
        try {
          const made = await api.createShot(project.id, newShot(name))
          router.push(`/shot/${made.id}`)
        } catch (error) {
          toast(messageOf(error), true)
        }
      },
    })
  const openPackage = () => {
    if (!project) return
    const input = document.createElement('input')
    input.type = 'file'
    input.accept = '.zip'
    input.onchange = () => {
      const [file] = input.files ?? []
      if (file)
        void act(async () => {
          const { ids, lost } = await api.openPackage(project.id, file)
          const what = ids.length > 1 ? `${file.name}, ${ids.length} shots,` : file.name
          toast(
            lost.length
              ? `${what} is opened, but ${lost.join(', ')}: bring it again in the shot.`
              : `${what} is opened in ${project.name}.`,
            lost.length > 0,
          )
        })
    }
    input.click()
  }
  const running = jobs.filter((j) => ['running', 'queued', 'stopping'].includes(j.state))
  const recent = jobs.filter((j) => !running.includes(j)).slice(0, 8)
  return (
    <Tooltip.Provider>
      <div className="flex h-full flex-col">
        <header className="flex h-10 shrink-0 items-center gap-3 border-bark border-b bg-pine px-3">
          <span className="flex w-[204px] items-center gap-2.5 font-semibold text-lead">
            <Mark /> Fox Ember
          </span>
          <h1 className="font-semibold text-lead">Projects</h1>
          <span className="flex-1" />
          <label className="flex h-7 w-48 items-center gap-2 rounded-md border border-bark bg-night px-2.5 focus-within:outline-2 focus-within:outline-mist">
            <Search size={14} strokeWidth={1.5} className="text-moss" />
            <input
              value={query}
              onChange={(e) => setQuery(e.target.value)}
              placeholder="Find a shot"
              aria-label="Find a shot"
              className="w-full min-w-0 bg-transparent outline-none placeholder:text-moss"
            />
          </label>
          <Button disabled={!project} onClick={openPackage}>
            <PackageOpen size={15} strokeWidth={1.5} /> Open a package
          </Button>
          <Button main disabled={!project} onClick={addShot}>
            <Plus size={15} strokeWidth={1.5} /> New shot
          </Button>
        </header>
        <div className="flex min-h-0 flex-1">
          <nav aria-label="Projects" className="w-[216px] shrink-0 overflow-y-auto border-bark border-r bg-pine">
            <div className="flex h-9 items-center justify-between pr-2 pl-3 font-semibold">
              Projects
              <IconButton name="New project" onClick={newProject}>
                <Plus size={15} strokeWidth={1.5} />
              </IconButton>
            </div>
            {projects?.map((p) => (
              <div
                key={p.id}
                className={cx(
                  'group mx-1 mb-1 flex items-start rounded-md border',
                  p.id === project?.id ? 'border-bark bg-fern' : 'border-transparent hover:bg-fern/60',
                )}
              >
                <button type="button" className="min-w-0 flex-1 px-2 py-1.5 text-left" onClick={() => setChosen(p.id)}>
                  <span className="block truncate font-semibold">{p.name}</span>
                  <span className="text-moss">{count(p.shots.length, 'shot')}</span>
                </button>
                <MoreMenu
                  name={p.name}
                  pack={p.shots.length ? `/api/projects/${p.id}/package` : undefined}
                  rename={() =>
                    setAsking({
                      title: 'Rename the project',
                      start: p.name,
                      button: 'Rename',
                      go: (name) => act(() => api.renameProject(p.id, name)),
                    })
                  }
                  remove={() =>
                    setAsking({
                      title: `Delete ${p.name} with its ${count(p.shots.length, 'shot')}? Type its name to confirm.`,
                      start: '',
                      button: 'Delete',
                      go: async (name) => (name === p.name ? act(() => api.deleteProject(p.id)) : toast(otherName(p.name), true)),
                    })
                  }
                />
              </div>
            ))}
          </nav>
          <main className="min-w-0 flex-1 overflow-y-auto p-6">
            {problem && (
              <p role="alert" className="mb-4 w-fit rounded-md border border-berry px-3 py-2">
                The projects cannot be read: {problem}. It is tried again every {RETRY_MS / 1000} s.{' '}
                <button type="button" className="underline" onClick={() => void load()}>
                  Try now
                </button>
              </p>
            )}
            {projects?.length === 0 && (
              <div className="flex flex-col items-start gap-3">
                <p className="text-title">No project yet.</p>
                <Button main onClick={newProject}>
                  Make the first project
                </Button>
              </div>
            )}
            {project && (
              <>
                <h2 className="mb-4 flex items-baseline gap-2 font-semibold text-headline">
                  {project.name}
                  <span className="font-normal text-lead text-moss">
                    {count(project.shots.length, 'shot')}, {project.shots.reduce((s, x) => s + x.seconds, 0).toFixed(1)} s in all
                  </span>
                </h2>
                <div className="grid grid-cols-[repeat(auto-fill,minmax(300px,1fr))] gap-4">
                  {shots.map((s) => (
                    <ShotCard
                      key={s.id}
                      shot={s}
                      remove={() =>
                        setAsking({
                          title: `Delete ${s.name} with its versions and renders? Type its name to confirm.`,
                          start: '',
                          button: 'Delete',
                          go: async (name) => (name === s.name ? act(() => api.deleteShot(s.id)) : toast(otherName(s.name), true)),
                        })
                      }
                      copy={() =>
                        act(async () => {
                          const { doc } = await api.shot(s.id)
                          await api.createShot(s.projectId, { ...doc, name: `${doc.name} copy`.slice(0, 200) })
                        })
                      }
                    />
                  ))}
                </div>
                {!project.shots.length && (
                  <p className="text-moss">
                    No shot yet.{' '}
                    <button type="button" className="text-mist underline" onClick={addShot}>
                      Make the first
                    </button>
                    : it begins with a floor, a light and a camera.
                  </p>
                )}
                {project.shots.length > 0 && !shots.length && <p className="text-moss">No shot is called “{query}”.</p>}
              </>
            )}
          </main>
          <aside className="w-[288px] shrink-0 overflow-y-auto border-bark border-l bg-pine max-[1100px]:hidden">
            <h3 className="px-3 pt-3 pb-1 font-semibold">Under way</h3>
            {!running.length && !problem && <p className="px-3 pb-3 text-moss">Nothing is being rendered.</p>}
            {running.map((j) => (
              <div key={j.id} className="px-3 pb-3">
                <Link href={`/shot/${j.shotId}`} className="hover:underline">
                  <b className="font-semibold">{j.name}</b>, render
                </Link>
                <div className="my-1.5 h-[4px] bg-night">
                  <div className="h-full bg-ember" style={{ width: `${(j.done / j.total) * 100}%` }} />
                </div>
                <div className="flex justify-between text-moss">
                  {j.done} of {j.total} f{j.leftS !== null ? `, ${timeLeft(j.leftS)}` : ''}
                  <button
                    type="button"
                    className="text-mist"
                    disabled={j.state === 'stopping'}
                    onClick={() => void actOnJob(() => api.job(j.id, 'stop'), reloadJobs)}
                  >
                    Stop
                  </button>
                </div>
              </div>
            ))}
            <div className="border-bark border-t" />
            <h3 className="px-3 pt-3 pb-1 font-semibold">Renders</h3>
            {recent.map((j) => (
              <div key={j.id} className="flex justify-between gap-2 px-3 py-1">
                <span className="truncate">
                  <b className="font-semibold">{j.name}</b>, {j.settings.width} × {j.settings.height}
                </span>
                <span className={j.state === 'failed' ? 'text-berry' : 'text-moss'}>{j.state === 'done' ? `${j.total} f` : j.state}</span>
              </div>
            ))}
            {!recent.length && <p className="px-3 text-moss">Finished renders are listed here.</p>}
          </aside>
        </div>
        {asking && <Ask {...asking} close={() => setAsking(null)} />}
        <Toaster />
      </div>
    </Tooltip.Provider>
  )
}
