import { test } from '@playwright/test'
import { copyShot, goTo, openShot } from './helpers'
test.use({ viewport: { width: 1280, height: 800 } })
test('look', async ({ page }) => {
  const id = await copyShot('Zz look')
  await openShot(page, id)
  await goTo(page, 20)
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByRole('menuitem', { name: /^Layer/ }).click()
  await page.getByRole('combobox', { name: 'Add to the layer' }).click()
  await page.getByRole('option', { name: 'Sparks' }).click()
  await page.waitForTimeout(1500)
  await page.screenshot({ path: '/tmp/l4.png' })
  await page.getByRole('button', { name: 'Render', exact: true }).click()
  await page.getByText('EXR files').click()
  await page.waitForTimeout(500)
  await page.screenshot({ path: '/tmp/l5.png' })
})
