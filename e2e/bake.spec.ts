import { readFileSync } from 'node:fs'
import { expect } from '@playwright/test'
import { unzipSync } from 'fflate'
import { openVdb } from '../src/formats/vdb'
import { API, brightness, copyShot, dropAll, exact, goTo, lighter, openShot, picture, stored, type } from './helpers'
import { test } from './lasting'

test('a bake: begun, looked at while it runs, stopped, gone on with, taken by a render, out of date after a change', async ({ page }) => {
  const id = await copyShot('Baked strike', (d) => {
    lighter(d)
    // Slow enough to be stopped between frames.
    Object.assign(d, { range: { first: 0, last: 24 }, substeps: 64 })
    d.systems[0].birth[0].count = 6000
  })
  await openShot(page, id)
  await page.getByRole('tab', { name: 'Bakes' }).click()
  await page.getByRole('button', { name: 'Bake 0–24 f' }).click()
  const bake = page.getByRole('article', { name: 'Bake of Baked strike' })
  await expect(bake).toContainText(/baking, [1-9]\d* of 25 f/, { timeout: 40000 })
  await page.getByRole('button', { name: 'Stop this bake' }).click()
  await expect(bake).toContainText('stopped', { timeout: 20000 })
  const half = Number(/(\d+) of 25 f/.exec(await bake.innerText())?.[1])
  expect(half).toBeGreaterThan(0)
  // What is there can be looked at.
  await goTo(page, half - 1)
  await exact(page, half - 1)
  await page.getByRole('button', { name: 'Go on with this bake' }).click()
  await expect(bake).toContainText('done, 25 of 25 f', { timeout: 60000 })
  await expect(bake).toContainText('all as the shot is now')
  const job = (await bake.getAttribute('data-job')) as string
  expect((await page.request.get(`${API}/api/bakes/${job}/frames/12`)).status()).toBe(200)
  // Opened again it is there at once, and a render takes it.
  await page.reload()
  await goTo(page, 20)
  await exact(page, 20)
  const render = { first: 18, last: 19, width: 96, height: 54, transparent: false, formats: ['png'] }
  const made = await page.request.post(`${API}/api/shots/${id}/renders`, { data: render })
  expect(made.status()).toBe(201)
  await page.getByRole('tab', { name: 'Renders' }).click()
  await expect(page.getByRole('article', { name: 'Render of Baked strike' })).toContainText('2 of 2 frames by the bake of', {
    timeout: 60000,
  })
  // A change puts out of date just what it touches.
  await page.getByRole('tab', { name: 'Life' }).click()
  await page.getByRole('button', { name: 'Open Burst' }).click()
  await type(page, 'Count', '500')
  await page.getByRole('tab', { name: 'Bakes' }).click()
  await expect(bake).toContainText(/as the shot is now up to [1-9]\d? f|out of date/)
  // It can be looked at all the same, beside the shot as it is now.
  await exact(page, 20)
  await page.getByRole('button', { name: 'Show this bake beside the View' }).click()
  const beside = page.getByRole('status', { name: 'Bake beside the View' })
  await expect(beside).toHaveAttribute('data-frame', '20')
  const counts = /([\d,]+) particles, ([\d,]+) now/.exec(await beside.innerText())
  const [then, now] = (counts ?? []).slice(1).map((n) => Number(n.replace(',', '')))
  expect(now).toBeGreaterThan(0)
  expect(then).toBeGreaterThan(now * 4)
  await exact(page, 20)
  const dark = await brightness(page, await picture(page))
  await expect.poll(async () => brightness(page, await picture(page, 'second'))).toBeGreaterThan(dark * 1.02)
  await page.getByRole('button', { name: 'Delete this bake and its frames' }).click()
  await expect(bake).toHaveCount(0)
  await expect(page.getByTestId('second')).toHaveCount(0)
})

test('one system baked apart: the rest is computed without it, and changes elsewhere leave it as it is', async ({ page }) => {
  const id = await copyShot('Baked apart', (d) => {
    lighter(d)
    d.range = { first: 0, last: 14 }
    const second = JSON.parse(JSON.stringify(d.systems[0]).replaceAll('"id":"', '"id":"second-'))
    d.systems.push({ ...second, name: 'Second sparks', seed: 77 })
  })
  await openShot(page, id)
  await goTo(page, 12)
  await exact(page, 12)
  const whole = await picture(page)
  await page.getByRole('tab', { name: 'Bakes' }).click()
  await page.getByRole('combobox', { name: 'Bake of' }).click()
  await page.getByRole('option', { name: 'Second sparks' }).click()
  await page.getByRole('button', { name: 'Bake 0–14 f' }).click()
  const bake = page.getByRole('article', { name: 'Bake of Baked apart' })
  await expect(bake).toContainText('done, 15 of 15 f', { timeout: 60000 })
  await expect(bake).toContainText('Second sparks')
  await expect(bake).toContainText('all as the shot is now')
  await expect(bake).toContainText('the View computes the rest')
  // Another life of the first system: it is computed from its first birth on, with what was baked of the other.
  await page.getByRole('tab', { name: 'Life' }).click()
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await page.getByRole('button', { name: 'Open Burst' }).first().click()
  await type(page, 'Count', '20')
  await exact(page, 12)
  expect(await picture(page)).not.toEqual(whole)
  await page.getByRole('tab', { name: 'Bakes' }).click()
  await expect(bake).toContainText('all as the shot is now, the View computes the rest')
  await page.getByRole('treeitem', { name: /^Second sparks/ }).click()
  await page.getByRole('tab', { name: 'Life' }).click()
  await page.getByRole('button', { name: 'Open Burst' }).first().click()
  await type(page, 'Count', '20')
  await page.getByRole('tab', { name: 'Bakes' }).click()
  await expect(bake).toContainText(/as the shot is now up to [1-9]\d? f|out of date/)
  await expect(bake).not.toContainText('the View computes')
  await exact(page, 12)
})

test('smoke of VDB files: in, thicker, copied in a ring, baked, and out again', async ({ page }) => {
  const id = await copyShot('Puffs', (d) => {
    for (const layer of d.layers) layer.finish = []
    Object.assign(d, { objects: [], systems: [], forces: [], assets: [], range: { first: 0, last: 5 }, opens: 2 })
    Object.assign(d, { surroundings: { colour: [0, 0, 0], light: [0.6, 0.6, 0.6] }, substeps: 1 })
  })
  await openShot(page, id)
  const file = (n: number): [string, Uint8Array] => {
    const name = `quay_puff.000${n}.vdb`
    return [name, new Uint8Array(readFileSync(`src/formats/vdb/samples/${name}`))]
  }
  await dropAll(page, [2, 3, 5].map(file))
  await expect(page.getByText(/grids density, temperature, heat, vel.*Number 4 is missing; the one before stands in for it/)).toBeVisible()
  await expect(page.getByRole('treeitem', { name: /^Smoke of quay_puff/ })).toHaveAttribute('aria-selected', 'true')
  await exact(page, 2)
  const thin = await brightness(page, await picture(page))
  await page.getByRole('button', { name: 'Open From a file' }).click()
  await type(page, 'Density by', '4')
  await exact(page, 2)
  const thick = await brightness(page, await picture(page))
  expect(thick).toBeGreaterThan(thin * 1.03)
  await page.getByRole('treeitem', { name: /^quay_puff/ }).click()
  await page.keyboard.press('Control+k')
  await page.keyboard.type('copies in a ring')
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => (await stored(id)).objects[0] as unknown as { copies: unknown[] })
    .toMatchObject({ copies: [{ kind: 'copiesRing' }] })
  await exact(page, 2)
  expect(await brightness(page, await picture(page))).toBeGreaterThan(thick * 1.03)
  await page.getByRole('tab', { name: 'Bakes' }).click()
  await page.getByRole('button', { name: 'Bake 0–5 f' }).click()
  const bake = page.getByRole('article', { name: 'Bake of Puffs' })
  await expect(bake).toContainText('done, 6 of 6 f', { timeout: 60000 })
  const link = await bake.getByRole('link', { name: 'VDB ZIP' }).getAttribute('href')
  const files = unzipSync(new Uint8Array(await (await page.request.get(`${API}${link}`)).body()))
  expect(Object.keys(files)).toHaveLength(6)
  const out = openVdb(files['Smoke-of-quay_puff.0003.vdb'])
  expect(out.ok && out.value.grids.map((g) => g.name)).toEqual(['density', 'temperature'])
})
