import { existsSync, readdirSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { expect, type Page } from '@playwright/test'
import { API, copyShot, lighter, openShot, upTo } from './helpers'
import { test } from './lasting'

async function order(
  page: Page,
  o: { last: number; width: number; height: number; formats: string[]; transparent?: boolean },
): Promise<void> {
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: /^Render / })
  for (const [label, value] of [
    ['Last frame', o.last],
    ['Width', o.width],
    ['Height', o.height],
  ] as const) {
    await dialog.getByRole('spinbutton', { name: label }).focus()
    await page.keyboard.press('Enter')
    await page.keyboard.press('Control+a')
    await page.keyboard.type(String(value))
    await page.keyboard.press('Enter')
  }
  for (const f of ['PNG files', 'WebM', 'MP4']) await dialog.getByRole('checkbox', { name: f }).setChecked(o.formats.includes(f))
  if (o.transparent) await dialog.getByRole('switch', { name: 'Transparent' }).click()
  await dialog.getByRole('button', { name: /^Render \d+ frames?$/ }).click()
  await expect(dialog).toBeHidden()
}
test('thirty frames to PNG, WebM and MP4: progress, stopped midway, gone on with, found', async ({ page, request }) => {
  await openShot(page, await copyShot('Thirty frames', lighter))
  await order(page, { last: 29, width: 96, height: 54, formats: ['PNG files', 'WebM', 'MP4'], transparent: true })
  const job = page.getByRole('article', { name: 'Render of Thirty frames' })
  await expect(job).toContainText(/rendering, \d+ of 30 f/, { timeout: 30000 })
  await expect(job.getByRole('img').first()).toBeVisible()
  await page.getByRole('button', { name: 'Stop this render' }).click()
  await expect(job).toContainText('stopped', { timeout: 20000 })
  const id = (await job.getAttribute('data-job')) as string
  const folder = (await job.getByText(/^Files: /).innerText()).replace('Files: ', '')
  const half = readdirSync(join(folder, 'frames')).length
  expect(half).toBeGreaterThan(0)
  expect(half).toBeLessThan(30)
  await page.getByRole('button', { name: 'Go on with this render' }).click()
  await expect(job).toContainText('done, 30 of 30 f', { timeout: 110000 })
  // The files, where the list says, and through the page.
  expect(readdirSync(join(folder, 'frames'))).toHaveLength(30)
  for (const name of ['movie.webm', 'movie.mp4']) expect(statSync(join(folder, name)).size).toBeGreaterThan(1000)
  for (const [name, type] of [
    ['0020.png', 'image/png'],
    ['movie.webm', 'video/webm'],
    ['movie.mp4', 'video/mp4'],
  ]) {
    const r = await request.get(`${API}/api/jobs/${id}/files/${name}`)
    expect([r.status(), r.headers()['content-type']]).toEqual([200, type])
  }
  await expect(job.getByRole('link', { name: /MP4/ })).toHaveAttribute('href', `/api/jobs/${id}/files/movie.mp4`)
  await expect(job.getByRole('link', { name: 'PNG ZIP' })).toHaveAttribute('href', `/api/jobs/${id}/zip/png`)
  await page.getByRole('button', { name: 'Compare with another render' }).click()
  await expect(page.getByText('No other render of this shot has a frame that this one has.')).toBeVisible()
  await page.keyboard.press('Escape')
  await order(page, { last: 1, width: 96, height: 54, formats: ['PNG files'] })
  const both = page.getByRole('article', { name: 'Render of Thirty frames' })
  await expect(both.filter({ hasText: 'done, 2 of 2 f' })).toHaveCount(1, { timeout: 60000 })
  await both.filter({ hasText: '30 f' }).getByRole('button', { name: 'Compare with another render' }).click()
  await expect(page.getByText('2 f in both')).toBeVisible()
  await page.getByRole('slider', { name: 'Frame', exact: true }).press('Home')
  await expect(page.getByRole('img', { name: 'Frame 0 of this render' })).toBeVisible()
  await page.getByRole('slider', { name: 'Where the renders meet' }).press('Home')
  await page.keyboard.press('Escape')
  await both.filter({ hasText: '2 of 2 f' }).getByRole('button', { name: 'Delete this render and its files' }).click()
  await expect(job).toHaveCount(1)
  await page.getByRole('button', { name: 'Delete this render and its files' }).click()
  await expect(job).toHaveCount(0)
  await expect.poll(() => existsSync(folder)).toBe(false)
})
test('a part of the picture is rendered alone, and the frames that are there become a movie at once', async ({ page, request }) => {
  await openShot(page, await copyShot('Part of it', upTo(8)))
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: /^Render / })
  await dialog.getByRole('button', { name: 'A rectangle' }).click()
  const part = dialog.getByRole('img', { name: 'Part of the picture' })
  const box = await part.boundingBox()
  if (!box) throw new Error('no picture')
  await page.mouse.move(box.x + 60, box.y + 40)
  await page.mouse.down()
  await page.mouse.move(box.x + 150, box.y + 100, { steps: 3 })
  await page.mouse.up()
  const said = await dialog.getByText(/\d+ × \d+ at \d+, \d+/).innerText()
  const [width, height] = (said.match(/\d+/g) ?? []).map(Number)
  expect(width).toBeGreaterThan(200)
  await dialog.getByRole('button', { name: 'This frame' }).click()
  await dialog.getByRole('checkbox', { name: 'MP4' }).setChecked(false)
  await dialog.getByRole('button', { name: 'Render 1 frame' }).click()
  const job = page.getByRole('article', { name: 'Render of Part of it' })
  await expect(job).toContainText('done, 1 of 1 f', { timeout: 60000 })
  await expect(job).toContainText(`part ${width} × ${height}`)
  const id = (await job.getAttribute('data-job')) as string
  const frame = (await job.getByRole('img').first().getAttribute('alt'))?.replace('Frame ', '') ?? ''
  const png = await (await request.get(`${API}/api/jobs/${id}/files/${frame.padStart(4, '0')}.png`)).body()
  expect([png.readUInt32BE(16), png.readUInt32BE(20)]).toEqual([width, height])
  const coming = page.waitForEvent('download')
  await job.getByRole('link', { name: 'Contact sheet' }).click()
  expect((await coming).suggestedFilename()).toBe('Part of it contact sheet.png')
  await page.getByRole('button', { name: 'Preview movie' }).click()
  const preview = page.getByRole('dialog', { name: 'Preview of Part of it' })
  await expect(preview.getByText(/^9 f, 960 × 540/)).toBeVisible({ timeout: 60000 })
  // It plays.
  await expect.poll(() => preview.locator('video').evaluate((v) => (v as HTMLVideoElement).currentTime)).toBeGreaterThan(0)
})
test('the dialog says what is wrong before it starts', async ({ page }) => {
  await openShot(page, await copyShot('Dialog', lighter))
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  const dialog = page.getByRole('dialog', { name: 'Render Dialog' })
  await expect(dialog.getByRole('button', { name: 'Render 73 frames' })).toBeEnabled()
  for (const f of ['PNG files', 'MP4']) await dialog.getByRole('checkbox', { name: f }).setChecked(false)
  await expect(dialog.getByRole('alert')).toHaveText('Choose at least one format.')
  await expect(dialog.getByRole('button', { name: 'Render 73 frames' })).toBeDisabled()
  await dialog.getByRole('checkbox', { name: 'WebM' }).setChecked(true)
  await dialog.getByRole('spinbutton', { name: 'Width' }).focus()
  await page.keyboard.press('Enter')
  await page.keyboard.press('Control+a')
  await page.keyboard.type('641')
  await page.keyboard.press('Enter')
  await expect(dialog.getByRole('alert')).toHaveText('Movies need an even width and height.')
  await dialog.getByRole('button', { name: '960 × 540' }).click()
  await expect(dialog.getByRole('alert')).toHaveCount(0)
})
