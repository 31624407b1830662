import { expect } from '@playwright/test'
import {
  alive,
  bare,
  brightness,
  copyShot,
  drop,
  exact,
  goTo,
  lighter,
  openShot,
  picture,
  projects,
  quality,
  stored,
  TRIANGLES,
  type,
  upTo,
} from './helpers'
import { test } from './lasting'

test('from the list of projects to the playing demo', async ({ page }) => {
  await page.goto('/')
  await expect(page.getByRole('heading', { name: 'Lantern Night' })).toBeVisible()
  await page
    .getByRole('link', { name: /Anvil strike/ })
    .first()
    .click()
  await exact(page)
  await goTo(page, 55)
  const n = await alive(page)
  expect(n).toBeGreaterThan(18000)
  expect(n).toBeLessThan(22000)
  await page.keyboard.press('r')
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible()
  await expect.poll(async () => Number((await page.getByTestId('frame').innerText()).split(' ')[0]), { timeout: 20000 }).toBeGreaterThan(12)
  await page.keyboard.press('Space')
  await exact(page)
})

test('a shot that is opened after another in the same page has its workers, and looks as in a page of its own', async ({
  page,
  browser,
}) => {
  const other = (d: Parameters<typeof lighter>[0]) => {
    upTo(12)(d)
    d.opens = 8
    d.systems[0].seed = 77
    d.objects[1].seen = false
  }
  const [first, second] = [await copyShot('First of two', upTo(12)), await copyShot('Second of two', other)]
  await openShot(page, first)
  // Threads of kernels come when they are needed.
  const served = () => page.workers().filter((w) => /(sim|stage)\.js$/.test(w.url()))
  const workers = served()
  expect(workers).toHaveLength(2)
  await page.getByRole('link', { name: 'Fox Ember' }).click()
  // Over one card to the other: what was begun of the first is left.
  await page.locator(`a[href="/shot/${first}"]`).hover()
  await page.waitForTimeout(200)
  const card = page.locator(`a[href="/shot/${second}"]`)
  await card.hover()
  await page.waitForTimeout(200)
  await card.click()
  await page.waitForURL(`/shot/${second}`)
  await exact(page, 8)
  const now = served()
  expect(now.map((w) => workers.indexOf(w))).toEqual([0, 1])
  const here = await picture(page)
  const fresh = await (await browser.newContext({ viewport: { width: 1180, height: 600 } })).newPage()
  await openShot(fresh, second)
  expect((await picture(fresh)).equals(here)).toBe(true)
  await fresh.context().close()
})

test('scrubbing back brings the same picture, and a picture of fire', async ({ page }) => {
  await openShot(page, await copyShot('Scrub', lighter))
  await goTo(page, 46)
  const there = await picture(page)
  await goTo(page, 9)
  const other = await picture(page)
  await goTo(page, 46)
  expect((await picture(page)).equals(there)).toBe(true)
  expect(other.equals(there)).toBe(false)
  await goTo(page, 0)
  // Sparks light the picture up.
  expect(await brightness(page, there)).toBeGreaterThan((await brightness(page, await picture(page))) * 1.1)
})

test('a changed value is seen at once, is one step of undo, and undo brings the picture back', async ({ page }) => {
  const id = await copyShot('Change', lighter)
  await openShot(page, id)
  await goTo(page, 40)
  const before = await picture(page)
  const first = await alive(page)
  await type(page, 'Count', '1600')
  await expect.poll(() => alive(page)).toBeGreaterThan(first * 1.4)
  await exact(page, 40)
  expect((await picture(page)).equals(before)).toBe(false)
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Undone: Burst, count')).toBeVisible()
  await expect.poll(() => alive(page)).toBe(first)
  await expect.poll(async () => (await picture(page)).equals(before)).toBe(true)
  await page.keyboard.press('Control+Shift+Z')
  await expect.poll(() => alive(page)).toBeGreaterThan(first * 1.4)
})

test('while it plays: amount, spread, gravity and turbulence follow, and the picture goes on', async ({ page }) => {
  const id = await copyShot('Playing', lighter)
  await openShot(page, id)
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible()
  for (const [label, text] of [
    ['Count', '1200'],
    ['Spread', '80'],
    ['Strength', '3'],
  ]) {
    await type(page, label, text)
    await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible()
  }
  await page.getByRole('button', { name: 'Open Turbulence' }).click()
  const card = page.getByRole('region', { name: 'Turbulence' })
  await expect(card).toBeVisible()
  const strength = card.getByRole('spinbutton', { name: 'Strength', exact: true })
  // A drag sideways: one gesture, many values.
  const box = await strength.boundingBox()
  if (!box) throw new Error('no field')
  await page.mouse.move(box.x + 10, box.y + 8)
  await page.mouse.down()
  for (let i = 1; i <= 12; i++) await page.mouse.move(box.x + 10 + i * 5, box.y + 8)
  await page.mouse.up()
  const value = Number(await strength.inputValue())
  expect(value).toBeGreaterThan(10)
  await page.getByRole('button', { name: 'Pause' }).click()
  await exact(page)
  await expect(page.getByText(/Saved \d/)).toBeVisible()
  const doc = await stored(id)
  expect(doc.systems[0].birth[0].count).toBe(1200)
  expect(doc.systems[0].whole.movement[0].strength).toBe(3)
  // The whole drag is one step.
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Undone: Turbulence, strength')).toBeVisible()
  await expect(strength).not.toHaveValue(String(value))
})

test('an own OBJ is dropped in, becomes the source with two clicks, is hidden and keeps working', async ({ page }) => {
  const id = await copyShot('Tent', lighter)
  await openShot(page, id)
  await goTo(page, 30)
  await drop(page, 'festival tent.obj', TRIANGLES(0.4))
  await expect(page.getByText(/festival tent: 6 triangles, 0\.800 × 0\.400 × 0\.800 m/)).toBeVisible()
  const row = page.getByRole('treeitem', { name: /festival tent/ })
  await expect(row).toBeVisible()
  await row.click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Make it the source' }).click()
  await expect(page.getByText('festival tent is now the source of Sparks')).toBeVisible()
  await exact(page, 30)
  const visible = await picture(page)
  await row.click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Hide it from the camera' }).click()
  await exact(page, 30)
  expect((await picture(page)).equals(visible)).toBe(false)
  expect(await alive(page)).toBeGreaterThan(1000)
  await expect(page.getByText(/Saved \d/)).toBeVisible()
  const doc = await stored(id)
  const tent = doc.objects.find((o) => o.name === 'festival tent')
  expect(tent).toMatchObject({ seen: false, roles: { source: true, collider: true } })
  expect(doc.systems[0].birth.every((b) => b.source === tent?.id)).toBe(true)
})

test('a broken file is refused with its place, and nothing changes', async ({ page }) => {
  const id = await copyShot('Broken', bare)
  await openShot(page, id)
  await drop(page, 'broken <b>bell.obj', 'v 0 0 0\nv 1 0 0\nf 1 2 7\n')
  await expect(
    page.getByRole('alert').filter({ hasText: 'broken <b>bell.obj: line 3: corner “7” names a vertex that is not there' }),
  ).toBeVisible()
  await expect(page.getByRole('treeitem', { name: /bell/ })).toHaveCount(0)
  expect((await stored(id)).objects).toHaveLength(6)
})

test('a project and a shot are made, named with markup, and deleted after typing the name', async ({ page }) => {
  const faults: string[] = []
  page.on('console', (m) => m.type() === 'error' && faults.push(m.text()))
  let pictures = 0
  page.on('request', (r) => r.method() === 'GET' && /\/shots\/[^/]+\/picture$/.test(r.url()) && page.url().includes('/shot/') && pictures++)
  await page.goto('/')
  await page.getByRole('button', { name: 'New project' }).click()
  await page.getByRole('dialog').getByRole('textbox').fill('Quay <i>tests</i>/..')
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page.getByRole('heading', { name: 'Quay <i>tests</i>/..' })).toBeVisible()
  await page.getByRole('button', { name: 'New shot' }).click()
  await page.getByRole('dialog').getByRole('textbox').fill('First & last')
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(quality(page)).toBeVisible({ timeout: 30000 })
  await expect(page.getByText('None yet: add one with +.')).toBeVisible()
  // There is none of a new shot, and it is asked for once.
  expect(pictures).toBe(1)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByRole('menuitem', { name: /^System/ }).click()
  await goTo(page, 48)
  await expect
    .poll(async () => Number((await page.getByRole('treeitem', { name: /Sparks/ }).innerText()).replace(/\D/g, '')))
    .toBeGreaterThan(500)
  await page.getByRole('link', { name: 'Fox Ember' }).click()
  await page
    .getByRole('button', { name: /Quay <i>tests<\/i>/ })
    .first()
    .click()
  await page.getByRole('button', { name: 'More for Quay <i>tests</i>/..' }).click()
  await page.getByRole('menuitem', { name: 'Delete …' }).click()
  await page.getByRole('dialog').getByRole('textbox').fill('Quay <i>tests</i>/..')
  await page.getByRole('dialog').getByRole('button', { name: 'Delete' }).click()
  await expect(page.getByRole('heading', { name: 'Lantern Night' })).toBeVisible()
  expect((await projects()).some((p) => p.name.startsWith('Quay'))).toBe(false)
  // A new shot has no picture yet; to ask for it logs no error.
  expect(faults).toEqual([])
})
