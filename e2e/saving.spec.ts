import { expect, test } from '@playwright/test'
import { bare, copyShot, exact, openShot, projects, stored, type } from './helpers'

test('closing the tab in the middle of an edit loses nothing', async ({ context }) => {
  const id = await copyShot('Tab', bare)
  const page = await context.newPage()
  await openShot(page, id)
  await type(page, 'Count', '1234')
  // At once: the 0.8 s are not over.
  await page.close({ runBeforeUnload: true })
  const again = await context.newPage()
  await openShot(again, id)
  await expect(again.getByRole('spinbutton', { name: 'Count' }).first()).toHaveText('1,234')
  await expect.poll(async () => (await stored(id)).systems[0].birth[0].count).toBe(1234)
})

test('while the server does not answer, changes are kept in the browser and sent later', async ({ context, page }) => {
  const id = await copyShot('Offline', bare)
  await openShot(page, id)
  await context.setOffline(true)
  await type(page, 'Count', '1500')
  await expect(page.getByText('Kept here, not sent yet')).toBeVisible()
  expect((await stored(id)).systems[0].birth[0].count).toBe(800)
  // Even over a crash: another page of the same browser finds the draft.
  await page.close()
  await new Promise((r) => setTimeout(r, 500))
  await context.setOffline(false)
  // The closing tab may just have got its change through; then there is nothing to bring back.
  const sent = (await stored(id)).systems[0].birth[0].count === 1500
  const again = await context.newPage()
  await again.goto(`/shot/${id}`)
  if (!sent) await expect(again.getByText('Changes that had not reached the server are back.')).toBeVisible()
  await expect(again.getByText(/Saved \d/)).toBeVisible()
  expect((await stored(id)).systems[0].birth[0].count).toBe(1500)
})

test('two windows: the stale one is asked, and both answers work', async ({ browser }) => {
  const id = await copyShot('Two windows', bare)
  const open = async () => {
    const page = await (await browser.newContext({ viewport: { width: 1180, height: 600 } })).newPage()
    await openShot(page, id)
    return page
  }
  const a = await open()
  const b = await open()
  await type(a, 'Count', '900')
  await expect(a.getByText(/Saved \d/)).toBeVisible()
  await type(b, 'Count', '700')
  await expect(b.getByRole('dialog', { name: 'This shot was changed elsewhere' })).toBeVisible()
  expect((await stored(id)).systems[0].birth[0].count).toBe(900)
  await b.getByRole('button', { name: 'Keep mine as a copy' }).click()
  await exact(b)
  await expect(b.getByText('Two windows (my copy)')).toBeVisible()
  await expect(b.getByRole('spinbutton', { name: 'Count' }).first()).toHaveText('700')
  const copy = (await projects()).flatMap((p) => p.shots).find((s) => s.name === 'Two windows (my copy)')
  expect(copy).toBeDefined()
  expect((await stored(id)).systems[0].birth[0].count).toBe(900)
  // The other answer.
  const c = await open()
  await type(a, 'Count', '950')
  await expect(a.getByText(/Saved \d/)).toBeVisible()
  await type(c, 'Count', '100')
  await c.getByRole('button', { name: 'Reload theirs' }).click()
  await exact(c)
  await expect(c.getByRole('spinbutton', { name: 'Count' }).first()).toHaveText('950')
  for (const p of [a, b, c]) await p.context().close()
})

test('a named version is kept, and opening it is a change that undo takes back', async ({ page }) => {
  const id = await copyShot('Older states', bare)
  await openShot(page, id)
  await page.getByRole('button', { name: 'Versions' }).click()
  await page.getByRole('textbox', { name: 'Name of the version' }).fill('slow sparks')
  await page.getByRole('button', { name: 'Keep' }).click()
  await expect(page.getByRole('button', { name: /slow sparks/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await type(page, 'Count', '50')
  await expect(page.getByText(/Saved \d/)).toBeVisible()
  await page.getByRole('button', { name: 'Versions' }).click()
  await page.getByRole('button', { name: /slow sparks/ }).click()
  await expect(page.getByRole('spinbutton', { name: 'Count' }).first()).toHaveText('800')
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('spinbutton', { name: 'Count' }).first()).toHaveText('50')
})

test('a shot that is gone says so, with a way back', async ({ page }) => {
  await page.goto('/shot/nobody')
  await expect(page.getByText('This shot cannot be opened.')).toBeVisible()
  await expect(page.getByText('this shot is not there any more')).toBeVisible()
  await page.getByRole('link', { name: 'Go to the projects' }).click()
  await expect(page.getByRole('heading', { name: 'Lantern Night' })).toBeVisible()
})
