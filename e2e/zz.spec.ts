import { exact, openShot, projects } from './helpers'
import { test } from './lasting'

test.use({ viewport: { width: 1280, height: 800 } })
test('look', async ({ page }) => {
  const all = await projects()
  const shot = all.find((p) => p.name === 'Lantern Night')?.shots.find((s) => s.name === 'Anvil strike')
  if (!shot) throw new Error('no shot')
  await openShot(page, shot.id)
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await page.getByRole('button', { name: 'Add to the look' }).click()
  await page.waitForTimeout(500)
  await page.screenshot({ path: '/tmp/t/app1.png' })
  await page.getByLabel(/^Find in/).fill('Solid')
  await page.keyboard.press('Enter')
  await page.waitForTimeout(1500)
  await exact(page)
  await page.screenshot({ path: '/tmp/t/app2.png' })
})
