import { expect } from '@playwright/test'
import { bare, copyShot, difference, exact, goTo, lighter, loseContext, openShot, picture, quality, stored, type, upTo } from './helpers'
import { test } from './lasting'

test('orbit, pan and zoom leave the shot alone; C looks through the camera again', async ({ page }) => {
  const id = await copyShot('Orbit', upTo(24))
  await openShot(page, id)
  await goTo(page, 20)
  const before = await picture(page)
  const stage = await page.getByTestId('stage').boundingBox()
  if (!stage) throw new Error('no stage')
  const [cx, cy] = [stage.x + stage.width / 2, stage.y + stage.height / 3]
  await page.mouse.move(cx, cy)
  await page.mouse.down()
  for (let i = 1; i <= 8; i++) await page.mouse.move(cx + i * 12, cy + i * 3)
  await page.mouse.up()
  await expect(page.getByRole('button', { name: 'Free view' })).toBeVisible()
  await exact(page)
  const orbited = await picture(page)
  expect(orbited.equals(before)).toBe(false)
  await page.mouse.move(cx, cy)
  await page.mouse.wheel(0, -400)
  await exact(page)
  // The wheel may come only after the picture was exact again.
  const same = (as: Buffer) => expect.poll(async () => (await picture(page)).equals(as))
  await same(orbited).toBe(false)
  await page.keyboard.press('c')
  await expect(page.getByRole('button', { name: 'Camera', exact: true }).first()).toBeVisible()
  await same(before).toBe(true)
  expect((await stored(id)).cameras).toEqual((await stored(await copyShot('Orbit again'))).cameras)
})

test('a click picks the object; its handle moves it, in one step of undo', async ({ page }) => {
  const id = await copyShot('Handle', (d) => {
    lighter(d)
    d.systems[0].birth = []
  })
  // The picture is large enough that no handle covers the stump.
  await page.setViewportSize({ width: 1280, height: 720 })
  await openShot(page, id)
  const stage = await page.getByTestId('stage').boundingBox()
  if (!stage) throw new Error('no stage')
  // The stump stands in the lower middle of the picture. While a menu is open the press closes that, and picks nothing.
  const pick = () => page.mouse.click(stage.x + stage.width * 0.54, stage.y + stage.height * 0.8)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await expect(page.getByRole('menu')).toBeVisible()
  await pick()
  await expect(page.getByRole('menu')).toHaveCount(0)
  await expect(page.getByRole('treeitem', { name: /Stump/ })).toHaveAttribute('aria-selected', 'false')
  await pick()
  await expect(page.getByRole('treeitem', { name: /Stump/ })).toHaveAttribute('aria-selected', 'true')
  const handles = page.getByRole('group', { name: 'Handles' })
  const y = handles.locator('circle').nth(1)
  const box = await y.boundingBox()
  if (!box) throw new Error('no handle')
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2)
  await page.mouse.down()
  for (let i = 1; i <= 6; i++) await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2 - i * 8)
  await page.mouse.up()
  await expect(page.getByText(/Saved \d/)).toBeVisible()
  await expect.poll(async () => (await stored(id)).objects[1].place[1]).not.toBe(0)
  const place = (await stored(id)).objects[1].place as number[]
  expect(place[1]).toBeGreaterThan(0.05)
  expect([place[0], place[2]]).toEqual([0, 0])
  await page.keyboard.press('Control+z')
  await expect.poll(async () => (await stored(id)).objects[1].place).toEqual([0, 0, 0])
})

test('a lost graphics context comes back with the same picture', async ({ page }) => {
  await openShot(page, await copyShot('Lost', lighter))
  await goTo(page, 30)
  const before = await picture(page)
  await loseContext(page)
  await exact(page, 30)
  expect((await picture(page)).equals(before)).toBe(true)
})

test('the objects are kept while only the shade of tufts moves, and look as they do drawn anew', async ({ page }) => {
  const id = await copyShot('Kept', (d) => {
    lighter(d)
    // What has keys would have them drawn for every frame.
    d.lights = d.lights.filter((l) => l.id !== 'blow')
    d.objects = d.objects.filter((o) => o.id !== 'slug')
    d.systems[0].whole.look = [
      { id: 'size', kind: 'overLife', seed: 2, size: 0.12 },
      { id: 'smoke', kind: 'tuft', seed: 3 },
    ]
  })
  await openShot(page, id)
  // Only the second picture of the same objects tells that nothing else moves.
  for (const frame of [20, 21, 22]) await goTo(page, frame)
  const kept = await picture(page)
  await goTo(page, 23)
  expect(await difference(page, kept, await picture(page))).toBeGreaterThan(0.2)
  await goTo(page, 22)
  await loseContext(page)
  await exact(page, 22)
  expect(await difference(page, kept, await picture(page))).toBeLessThan(0.15)
})

test('playing lowers the quality honestly, and standing still sharpens it', async ({ page }) => {
  await openShot(page, await copyShot('Quality'))
  await goTo(page, 40)
  await page.keyboard.press('Space')
  await expect(quality(page)).toContainText('Preview', { timeout: 20000 })
  await expect(quality(page)).toContainText(/size/)
  await page.keyboard.press('Space')
  await exact(page)
  await expect(quality(page)).toHaveAttribute('data-scale', '1')
  await expect(quality(page)).toHaveAttribute('data-share', '1')
})

test('keys: frames, only the View, handles, the list of shortcuts; none fires while somebody types', async ({ page }) => {
  const id = await copyShot('Keys', bare)
  await openShot(page, id)
  await page.keyboard.press('ArrowRight')
  await page.keyboard.press('Shift+ArrowRight')
  await expect(page.getByTestId('frame')).toHaveText('11 f')
  await page.keyboard.press('ArrowLeft')
  await expect(page.getByTestId('frame')).toHaveText('10 f')
  await page.keyboard.press('v')
  await expect(page.getByRole('navigation', { name: 'Elements' })).toBeHidden()
  await expect(page.getByRole('region', { name: 'Board' })).toBeHidden()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('region', { name: 'Board' })).toBeVisible()
  await page.keyboard.press('b')
  await expect(page.getByRole('heading', { name: 'Whole life' })).toBeHidden()
  await page.keyboard.press('b')
  await page.keyboard.press('?')
  await expect(page.getByRole('dialog', { name: 'Shortcuts' })).toContainText('Frame the selection')
  await page.keyboard.press('Escape')
  await page.getByRole('textbox', { name: 'Find an element' }).fill('bvdm ?')
  await expect(page.getByText('Nothing is called “bvdm ?”.')).toBeVisible()
  await expect(page.getByRole('region', { name: 'Board' })).toBeVisible()
  await page.getByRole('textbox', { name: 'Find an element' }).fill('')
  expect((await stored(id)).systems[0]).not.toHaveProperty('muted', true)
})

test('Ctrl+K finds elements and commands', async ({ page }) => {
  await openShot(page, await copyShot('Find', bare))
  await page.keyboard.press('Control+k')
  await page.keyboard.type('strike light')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('treeitem', { name: /Strike light/ })).toHaveAttribute('aria-selected', 'true')
  await page.keyboard.press('Control+k')
  await page.keyboard.type('force turbul')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('treeitem', { name: /Turbulence/ })).toHaveAttribute('aria-selected', 'true')
  // A setting of the shot, by the trade's word, and an act with a typing error, which goes where it belongs.
  await page.keyboard.press('Control+k')
  await page.keyboard.type('fps')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('combobox', { name: 'Frame rate' })).toBeFocused()
  await page.keyboard.press('Escape')
  await page
    .getByRole('treeitem', { name: /^Sparks/ })
    .first()
    .click()
  await page.keyboard.press('Control+k')
  await page.keyboard.type('add trubulence')
  await page.keyboard.press('Enter')
  await expect(page.getByRole('region', { name: 'Turbulence' })).toBeVisible()
  await page.keyboard.press('Control+k')
  await page.keyboard.type('zzz')
  await expect(page.getByText('Nothing is called “zzz”.')).toBeVisible()
})

test('a shot opens with its last picture, and its frames are there again when it is reopened', async ({ page }) => {
  const id = await copyShot('Reopened', (d) => {
    lighter(d)
    d.opens = 20
    // Nothing was kept of it by a run before.
    d.objects[0].name = `Anvil ${Date.now()}`
  })
  const putting = page.waitForRequest((r) => r.method() === 'PUT' && /x\d+$/.test(r.url()))
  await openShot(page, id)
  await exact(page, 20)
  const before = await picture(page)
  // All frames, then a moment of quiet, and the browser's own storage has them: a file is empty until all of it is there.
  const keptFrames = () =>
    page.evaluate(async () => {
      let whole = 0
      const folder = (await (await navigator.storage.getDirectory()).getDirectoryHandle('frames')) as unknown as {
        values(): AsyncIterable<FileSystemFileHandle>
      }
      for await (const handle of folder.values()) {
        if (/^[0-9a-f]{64}$/.test(handle.name) && (await handle.getFile()).size > 0) whole++
      }
      return whole
    })
  await expect.poll(keptFrames, { timeout: 60000 }).toBe(1)
  // The picture for the projects page comes some time after opening.
  await expect.poll(() => page.evaluate((x) => fetch(`/api/shots/${x}/picture`).then((r) => r.status), id), { timeout: 60000 }).toBe(200)
  // The exact picture of the View is kept as well, under a name that says how large it is.
  const [width, height] = await page.getByTestId('stage').evaluate((c: HTMLCanvasElement) => [c.width, c.height])
  expect((await putting).url()).toMatch(new RegExp(`/api/openings/[0-9a-f]{64}-${width}x${height}$`))
  // The simulation says how many frames it has with its first word after the shot was taken: all of them, and nothing to compute. It hears nothing
  // itself until it may: what is seen until then was kept.
  await page.addInitScript(() => {
    const Made = window.Worker
    const said: string[] = []
    const held: (() => void)[] = []
    const release = () => {
      for (const send of held) send()
      Object.assign(window, { released: true })
    }
    Object.assign(window, { said, release })
    window.Worker = class extends Made {
      constructor(
        private url: string | URL,
        options?: WorkerOptions,
      ) {
        super(url, options)
        this.addEventListener('message', ({ data }) => data.type === 'status' && said.push(`${data.status.beads} ${data.status.computing}`))
      }
      postMessage(message: unknown, rest?: Transferable[] | StructuredSerializeOptions) {
        const send = () => super.postMessage(message, rest as Transferable[])
        if (String(this.url).includes('sim') && !('released' in window)) held.push(send)
        else send()
      }
    }
  })
  await page.reload({ waitUntil: 'commit' })
  await expect(page.getByTestId('poster')).toBeVisible()
  // It is there before there is a frame, and is what the stage then draws.
  const early = page.getByTestId('kept')
  await expect(early).toBeVisible()
  await expect(page.getByRole('status', { name: 'Opening' })).toContainText('As renderedkept from before')
  const kept = await early.evaluate(async (image: HTMLImageElement) => {
    const bytes = new Uint8Array(await (await fetch(image.src)).arrayBuffer())
    return btoa(bytes.reduce((text, b) => text + String.fromCharCode(b), ''))
  })
  await page.evaluate(() => (window as unknown as { release(): void }).release())
  await exact(page, 20)
  await expect(page.getByTestId('poster')).toHaveCount(0)
  await expect(early).toHaveCount(0)
  expect((await picture(page)).equals(before)).toBe(true)
  expect(await difference(page, Buffer.from(kept, 'base64'), before)).toBe(0)
  const said = await page.evaluate(() => (window as unknown as { said: string[] }).said)
  expect(said.length).toBeGreaterThan(0)
  for (const s of said) expect(s).toMatch(/^r+ null$/)
})

test('a sky is switched on, changed and taken away again, without simulating', async ({ page }) => {
  const id = await copyShot('Under stars', bare)
  await openShot(page, id)
  await exact(page)
  const before = await picture(page)
  await page.getByRole('button', { name: 'Under stars' }).click()
  await page.getByRole('switch', { name: 'Sky' }).click()
  await expect.poll(async () => (await picture(page)).equals(before)).toBe(false)
  const sky = async () => ((await stored(id)).surroundings as { sky: Record<string, unknown> | null }).sky
  await expect.poll(sky).toMatchObject({ stars: 2400, disc: 0 })
  await type(page, 'Stars', '0')
  await type(page, 'Disc', '9')
  await expect.poll(sky).toMatchObject({ stars: 0, disc: 9 })
  await expect(page.getByText('17 of 17')).toBeVisible()
  await page.getByRole('switch', { name: 'Sky' }).click()
  await expect.poll(sky).toBe(null)
  await exact(page)
  await expect.poll(async () => (await picture(page)).equals(before)).toBe(true)
})
