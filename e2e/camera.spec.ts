import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect } from '@playwright/test'
import { copyShot, dropAll, exact, openShot, picture, stored, upTo } from './helpers'
import { test } from './lasting'

test('a camera is read from a table; a plate lies behind it, and a floor that is not seen darkens the plate', async ({ page }) => {
  const id = await copyShot('Walk', upTo(8))
  await openShot(page, id)
  await dropAll(page, [['quay walk.csv', readFileSync('src/formats/table/samples/camera_semicolon_decimal_comma.csv', 'utf8')]])
  const dialog = page.getByRole('dialog', { name: 'Camera from quay walk.csv' })
  await expect(dialog.getByRole('combobox', { name: 'Column 6' })).toHaveText('angle Y')
  await expect(dialog).toContainText('It goes on to frame 23; the shot ends at frame 8.')
  await expect(dialog).toContainText('It says nothing of the lens: 35 mm')
  // What was guessed can be put right, and what is missing is said.
  await dialog.getByRole('combobox', { name: 'Column 6' }).click()
  await page.getByRole('option', { name: 'left aside' }).click()
  await expect(dialog).toContainText('Say which columns hold the rotation')
  await dialog.getByRole('combobox', { name: 'Column 6' }).click()
  await page.getByRole('option', { name: 'angle Y' }).click()
  await dialog.getByRole('switch', { name: 'See the shot through it' }).click()
  await dialog.getByRole('button', { name: 'Make the camera' }).click()
  await expect(page.getByText('quay walk: 24 places of a camera')).toBeVisible()
  type Camera = { name: string; place: { keys: { t: number; v: number }[] }[]; plate: string | null }
  const cameras = async () => (await stored(id)).cameras as Camera[]
  await expect.poll(async () => (await cameras()).map((c) => c.name)).toEqual(['Camera', 'quay walk'])
  expect((await cameras())[1].place[0].keys.map((k) => k.v)[23]).toBe(4)
  // A video, behind the camera of the shot.
  const before = await picture(page)
  const film = join(mkdtempSync(join(tmpdir(), 'fox-ember-film-')), 'quay.mov')
  execFileSync('ffmpeg', ['-v', 'error', '-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=24', '-frames:v', '9', '-pix_fmt', 'yuv420p', film])
  await dropAll(page, [['quay.mov', new Uint8Array(readFileSync(film))]])
  await expect(page.getByText(/quay: 9 pictures, 24 a second/)).toBeVisible()
  await page.getByRole('treeitem', { name: 'Camera', exact: true }).click()
  await page.getByRole('button', { name: 'No plate behind.' }).click()
  await page.getByRole('combobox', { name: 'Plate' }).click()
  await page.getByRole('option', { name: 'quay' }).click()
  await expect.poll(async () => (await picture(page)).equals(before)).toBe(false)
  await expect.poll(async () => (await cameras())[0].plate).toEqual(expect.any(String))
  const solid = await picture(page)
  await page.getByRole('treeitem', { name: 'Floor' }).click()
  await page.getByRole('button', { name: /^Surface/ }).click()
  await page.getByRole('switch', { name: 'Catches' }).click()
  await expect.poll(async () => (await picture(page)).equals(solid)).toBe(false)
  // From another side there is no plate, and the way back is the camera.
  const caught = await picture(page)
  await page.getByRole('button', { name: 'Camera', exact: true }).click()
  await page.getByRole('menuitem', { name: 'From above' }).click()
  await exact(page)
  expect((await picture(page)).equals(caught)).toBe(false)
  await page.keyboard.press('c')
  await expect.poll(async () => (await picture(page)).equals(caught)).toBe(true)
  // Frames that are safe on every screen, and a distance from the anvil to the floor.
  await page.getByRole('button', { name: 'Camera', exact: true }).click()
  await page.getByRole('menuitemcheckbox', { name: 'Safe frame' }).click()
  await expect(page.getByRole('img', { name: 'Safe frame' })).toBeVisible()
  await page.getByRole('button', { name: 'Camera', exact: true }).click()
  await page.getByRole('menuitem', { name: 'Measure a distance' }).click()
  const stage = await page.getByTestId('stage').boundingBox()
  if (!stage) throw new Error('no picture')
  await page.mouse.click(stage.x + stage.width * 0.56, stage.y + stage.height * 0.52)
  await expect(page.getByText('Click where the distance ends')).toBeVisible()
  await page.mouse.click(stage.x + stage.width * 0.3, stage.y + stage.height * 0.93)
  await expect(page.getByRole('img', { name: /^Distance \d.* m$/ })).toBeVisible()
  await page.keyboard.press('Escape')
  await expect(page.getByRole('img', { name: /^Distance/ })).toHaveCount(0)
})
