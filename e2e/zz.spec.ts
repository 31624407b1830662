import { readFileSync } from 'node:fs'
import { drop, exact, openShot, projects } from './helpers'
import { test } from './lasting'
test.use({ viewport: { width: 1280, height: 800 } })
test('look', async ({ page }) => {
  const all = await projects()
  const shots = all.find((p) => p.name === 'Lantern Night')?.shots ?? []
  const shot = shots.find((s) => s.name === 'Paper leaves')
  if (!shot) throw new Error('no shot')
  await openShot(page, shot.id)
  await drop(page, 'leaf.png', new Uint8Array(readFileSync('/tmp/t/leaf.png')))
  await page.getByRole('treeitem', { name: /^leaf/ }).waitFor()
  await page.waitForTimeout(1500)
  await exact(page)
  await page.screenshot({ path: '/tmp/t/app1.png' })
  await page.getByRole('treeitem', { name: /leaves|Leaves/ }).first().click()
  await page.getByRole('button', { name: 'Add to the look' }).click()
  await page.getByLabel(/^Find in/).fill('Sprite')
  await page.keyboard.press('Enter')
  await page.getByRole('combobox', { name: 'Picture', exact: true }).click()
  await page.getByRole('option', { name: 'leaf', exact: true }).click()
  await page.waitForTimeout(1500)
  await exact(page)
  await page.screenshot({ path: '/tmp/t/app2.png' })
})
