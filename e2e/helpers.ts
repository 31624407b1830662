import { expect, type Locator, type Page } from '@playwright/test'

export const API = process.env.EMBER_URL ?? 'http://127.0.0.1:4600'
type Doc = {
  name: string
  systems: {
    id: string
    seed: number
    birth: { count?: number; rate?: number; source: string | null }[]
    whole: { movement: { strength?: number }[]; look: unknown[] }
    phases: { name: string; movement: unknown[]; turns: unknown[] }[]
  }[]
  objects: { id: string; name: string; seen: boolean; shape: { kind: string }; place: unknown[]; offspring?: unknown[] }[]
  layers: { finish: unknown[] }[]
  lights: { id: string; kind: string; asset?: string | null; follows?: string | null; [k: string]: unknown }[]
  [k: string]: unknown
}
async function json<T>(path: string, init?: RequestInit): Promise<T> {
  const r = await fetch(`${API}${path}`, { ...init, headers: { 'content-type': 'application/json' } })
  if (!r.ok) throw new Error(`${path}: ${r.status} ${await r.text()}`)
  return r.json() as Promise<T>
}
export const projects = () => json<{ id: string; name: string; shots: { id: string; name: string }[] }[]>('/api/projects')
/** A copy of the demo shot of the test's own, changed as the test likes. */
export async function copyShot(name: string, change: (d: Doc) => void = () => {}): Promise<string> {
  const project = (await projects()).find((p) => p.name === 'Lantern Night')
  const demo = project?.shots.find((s) => s.name === 'Anvil strike')
  if (!project || !demo) throw new Error('the demo is not there')
  const { doc } = await json<{ doc: Doc }>(`/api/shots/${demo.id}`)
  doc.name = name
  doc.opens = null
  // Without a GPU a picture of light takes seconds to be made ready; it has a journey of its own.
  doc.lights = doc.lights.filter((l) => l.kind !== 'around')
  change(doc)
  return (await json<{ id: string }>(`/api/projects/${project.id}/shots`, { method: 'POST', body: JSON.stringify({ doc }) })).id
}
export const stored = async (id: string): Promise<Doc> => (await json<{ doc: Doc }>(`/api/shots/${id}`)).doc
export const fewer = (d: Doc) => {
  d.systems[0].birth[0].count = 800
}
/** Fewer particles, and no finish: without a GPU every sharp picture takes a part of a second. */
export const lighter = (d: Doc) => {
  fewer(d)
  for (const layer of d.layers) layer.finish = []
}
/** As lighter, of the first frames only: what comes behind the frame that is looked at is computed as well. */
export const upTo = (last: number) => (d: Doc) => {
  lighter(d)
  d.range = { first: 0, last }
}
/** Few frames, and nothing to see but particles: for what is not about the picture. */
export const bare = (d: Doc) => {
  upTo(16)(d)
  for (const o of d.objects) o.seen = false
}
export const quality = (page: Page) => page.getByTestId('quality')
/** Waits until the picture on screen is the exact one of the frame at the playhead, sharp. */
export async function exact(page: Page, frame?: number): Promise<void> {
  try {
    await expect(quality(page)).toContainText('As rendered', { timeout: 60000 })
  } catch (error) {
    // What the page knew then tells a stage that hangs from a playhead that nobody followed.
    const known = await page.evaluate(() => {
      const label = document.querySelector<HTMLElement>('[data-testid=quality]')
      const alerts = [...document.querySelectorAll('[role=alert]')].map((a) => a.textContent)
      return { ...label?.dataset, playhead: document.querySelector('[data-testid=frame]')?.textContent, alerts }
    })
    throw new Error(`the picture did not become exact: ${JSON.stringify(known)}`, { cause: error })
  }
  if (frame !== undefined) await expect(quality(page)).toHaveAttribute('data-frame', String(frame))
}
type App = { next?: { router: { push(path: string): void } } }
/** As a link of the application leads there: the page stays. */
export async function goWithin(page: Page, path: string): Promise<void> {
  const pushed = await page.evaluate((to) => {
    const { next } = globalThis as unknown as App
    next?.router.push(to)
    return !!next
  }, path)
  if (pushed) await page.waitForURL(path)
  else await page.goto(path)
}
export async function openShot(page: Page, id: string): Promise<void> {
  const errors: string[] = []
  page.on('pageerror', (e) => errors.push(e.message))
  await goWithin(page, `/shot/${id}`)
  await exact(page)
  expect(errors).toEqual([])
}
export async function goTo(page: Page, frame: number): Promise<void> {
  const ruler = page.getByRole('slider', { name: 'Playhead' })
  const box = await ruler.boundingBox()
  if (!box) throw new Error('no ruler')
  await page.mouse.click(box.x + (box.width * frame) / Number(await ruler.getAttribute('aria-valuemax')), box.y + 24)
  await expect(page.getByTestId('frame')).toHaveText(`${frame} f`)
  await exact(page, frame)
}
/** The picture on screen, without handles and labels, as a PNG whose bytes can be compared: read from the canvas, for which the page need not be composed. */
export async function picture(page: Page, of: 'stage' | 'second' = 'stage'): Promise<Buffer> {
  await exact(page)
  /** Looks; says whether it saw what it saw before, and gives the picture then. */
  const look = () =>
    page.evaluate((of) => {
      const stage = document.querySelector(`[data-testid=${of}]`) as HTMLCanvasElement
      const copy = document.createElement('canvas')
      copy.width = stage.width
      copy.height = stage.height
      const g = copy.getContext('2d', { willReadFrequently: true }) as CanvasRenderingContext2D
      g.drawImage(stage, 0, 0)
      const now = new Uint32Array(g.getImageData(0, 0, copy.width, copy.height).data.buffer)
      const kept = globalThis as { seenBefore?: Uint32Array }
      const same = kept.seenBefore?.length === now.length && kept.seenBefore.every((v, i) => v === now[i])
      kept.seenBefore = same ? undefined : now
      return same ? copy.toDataURL('image/png') : null
    }, of)
  // A worker's picture comes to the page some time after it was drawn: until two looks are the same, and of the sharp one; what was dropped a moment ago
  // may still be on its way, and is seen at a part of the size first.
  for (let k = 0; k < 20; k++) {
    const seen = await look()
    if (seen) return Buffer.from(seen.slice(seen.indexOf(',') + 1), 'base64')
    await page.waitForTimeout(150)
    await exact(page)
  }
  throw new Error('the picture does not come to rest')
}
/** The values of a picture, decoded in the page, so that no library is needed. */
async function valuesOf(page: Page, png: Buffer): Promise<Buffer> {
  const text = await page.evaluate(async (data) => {
    const image = await createImageBitmap(await (await fetch(`data:image/png;base64,${data}`)).blob())
    const c = new OffscreenCanvas(image.width, image.height)
    const g = c.getContext('2d') as OffscreenCanvasRenderingContext2D
    g.drawImage(image, 0, 0)
    const { data: values } = g.getImageData(0, 0, image.width, image.height)
    let out = ''
    for (let i = 0; i < values.length; i += 8190) out += btoa(String.fromCharCode(...values.subarray(i, i + 8190)))
    return out
  }, png.toString('base64'))
  return Buffer.from(text, 'base64')
}
/** How bright a picture is on the whole, of 255. */
export async function brightness(page: Page, png: Buffer): Promise<number> {
  const d = await valuesOf(page, png)
  return d.reduce((sum, v, i) => (i % 4 === 3 ? sum : sum + v), 0) / (d.length / 4) / 3
}
/** By how much two pictures of one size differ on the mean, of 255. */
export async function difference(page: Page, a: Buffer, b: Buffer): Promise<number> {
  const [x, y] = [await valuesOf(page, a), await valuesOf(page, b)]
  expect(x.length).toBe(y.length)
  return x.reduce((sum, v, i) => sum + Math.abs(v - y[i]), 0) / x.length
}
export const alive = async (page: Page): Promise<number> =>
  Number((await page.locator('[data-element=sparks]').innerText()).replace(/[^\d]/g, ''))
/** `card`: only in the open card of this name. */
export async function type(page: Page, label: string, text: string, card?: string): Promise<void> {
  const within = card ? page.getByRole('region', { name: card, exact: true }) : page
  const field = within.getByRole('spinbutton', { name: label, exact: true }).first()
  // A menu that closes gives the focus back a moment later: only then is it ours.
  await expect(async () => {
    await field.focus()
    await page.waitForTimeout(60)
    await expect(field).toBeFocused({ timeout: 200 })
  }).toPass()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Control+a')
  await page.keyboard.type(text)
  await page.keyboard.press('Enter')
}
export const TRIANGLES = (size: number): string => {
  // A small tent: closed, so that it has an inside.
  const s = size
  return `# tent\nv ${-s} 0 ${-s}\nv ${s} 0 ${-s}\nv ${s} 0 ${s}\nv ${-s} 0 ${s}\nv 0 ${s} 0\ng Roof\nf 2 1 5\nf 3 2 5\nf 4 3 5\nf 1 4 5\ng Ground\nf 1 2 3\nf 1 3 4\n`
}
export const drop = (page: Page, name: string, content: string | Uint8Array): Promise<void> => dropAll(page, [[name, content]])
/** Several files at once. */
export async function dropAll(page: Page, files: [string, string | Uint8Array][]): Promise<void> {
  const data = await page.evaluateHandle(
    (list) => {
      const t = new DataTransfer()
      for (const [n, c] of list) t.items.add(new File([typeof c === 'string' ? c : new Uint8Array(c)], n))
      return t
    },
    files.map(([n, c]): [string, string | number[]] => [n, typeof c === 'string' ? c : [...c]]),
  )
  const view = page.getByRole('region', { name: 'View' })
  await view.dispatchEvent('dragover', { dataTransfer: data })
  await view.dispatchEvent('drop', { dataTransfer: data })
}
/** Clicks about the fountain until there is a particle near the pointer, and gives the panel about it. */
export async function pickOne(page: Page): Promise<Locator> {
  const view = await page.getByTestId('stage').boundingBox()
  if (!view) throw new Error('no picture')
  const panel = page.getByTestId('particle')
  for (let k = 0; k < 12 && !(await panel.isVisible()); k++) {
    await page.mouse.click(view.x + view.width * (0.5 + 0.03 * (k % 4)), view.y + view.height * (0.3 + 0.08 * Math.floor(k / 4)))
    await page.waitForTimeout(500)
  }
  return panel
}
/** Takes the graphics context away, and waits until it is back. */
export async function loseContext(page: Page): Promise<void> {
  // The page makes the simulation's worker first, the stage's second; kernel threads sleep and would not answer.
  for (const w of page.workers().slice(0, 2))
    await w.evaluate(() => (self as unknown as { onmessage: ((e: unknown) => void) | null }).onmessage?.({ data: { type: 'lose' } }))
  const gone = page.getByText('The graphics driver took the picture away; it is being drawn again.')
  await expect(gone).toBeVisible()
  await expect(gone).toBeHidden()
}
/** Unfolds a menu within a menu. A pointer that stands still where the menu came up under it says nothing: it is moved until it is heard. */
export async function unfold(named: Locator): Promise<void> {
  // What unfolds may have items whose words are the same.
  const item = named.first()
  let tries = 0
  await expect(async () => {
    await item.hover({ position: { x: 12 + 4 * (tries++ % 5), y: 8 } })
    await expect(item).toHaveAttribute('aria-expanded', 'true', { timeout: 1500 })
  }).toPass({ timeout: 60000 })
}
