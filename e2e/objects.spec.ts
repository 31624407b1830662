import { readFileSync } from 'node:fs'
import { Document, WebIO } from '@gltf-transform/core'
import { expect } from '@playwright/test'
import {
  alive,
  copyShot,
  drop,
  dropAll,
  exact,
  goTo,
  lighter,
  openShot,
  picture,
  quality,
  stored,
  TRIANGLES,
  type,
  unfold,
  upTo,
} from './helpers'
import { test } from './lasting'

/** A small flag whose cloth goes up by 1 m in a second. */
async function rising(): Promise<Uint8Array> {
  const d = new Document()
  const buffer = d.createBuffer()
  const list = (type: 'VEC3' | 'SCALAR', array: Float32Array) =>
    d
      .createAccessor()
      .setType(type)
      .setArray(array as Float32Array<ArrayBuffer>)
      .setBuffer(buffer)
  const node = d
    .createNode('Cloth')
    .setMesh(
      d
        .createMesh()
        .addPrimitive(d.createPrimitive().setAttribute('POSITION', list('VEC3', new Float32Array([-0.3, 0.2, 0, 0.3, 0.2, 0, 0, 0.7, 0])))),
    )
  d.createScene().addChild(node)
  const sampler = d
    .createAnimationSampler()
    .setInput(list('SCALAR', new Float32Array([0, 1])))
    .setOutput(list('VEC3', new Float32Array([0, 0, 0, 0, 1, 0])))
  d.createAnimation()
    .addSampler(sampler)
    .addChannel(d.createAnimationChannel().setTargetNode(node).setTargetPath('translation').setSampler(sampler))
  return new WebIO().writeBinary(d)
}
const STL = `solid bell\n${[
  [0, 0, 0],
  [0.2, 0, 0],
  [0, 0.2, 0],
]
  .map(
    (_, i, a) =>
      `facet normal 0 0 1\nouter loop\n${a.map((p) => `vertex ${p.map((x) => x + i * 0.3).join(' ')}`).join('\n')}\nendloop\nendfacet`,
  )
  .join('\n')}\nendsolid bell\n`
const PLY =
  'ply\nformat ascii 1.0\nelement vertex 3\nproperty float x\nproperty float y\nproperty float z\nproperty uchar red\nproperty uchar green\nproperty uchar blue\nelement face 1\nproperty list uchar int vertex_index\nend_header\n0 0 0 255 0 0\n1 0 0 0 255 0\n0 1 0 0 0 255\n3 0 1 2\n'
const SVG =
  '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 20"><script>alert(1)</script><path d="M0 0H20V20H0Z M5 5V15H15V5Z"/></svg>'

test('every format is brought in: PLY with colours, STL, a drawing, a moving GLB, numbered files, a font for a text', async ({ page }) => {
  const id = await copyShot('Formats', lighter)
  await openShot(page, id)
  await drop(page, 'bunting.ply', PLY)
  await expect(page.getByText(/bunting: 1 triangles/)).toBeVisible()
  await drop(page, 'bell.stl', STL)
  await expect(page.getByText(/bell: 3 triangles/)).toBeVisible()
  await drop(page, 'board.svg', SVG)
  await expect(page.getByText(/board: 1 shape with depth.*not taken over: scripts/)).toBeVisible()
  await drop(page, 'flag.glb', await rising())
  await expect(page.getByText(/flag: 1 triangles/)).toBeVisible()
  await expect(page.getByText(/Moves by itself for 1 s/)).toBeVisible()
  await dropAll(
    page,
    [0.4, 0.5, 0.6].map((s, i) => [`tent_00${i + 1}.obj`, TRIANGLES(s)]),
  )
  await expect(page.getByText('tent: 3 files as one moving mesh, one a frame')).toBeVisible()
  await expect(page.getByText(/Moves by 3 files/)).toBeVisible()
  // Files that do not fit together are refused as a whole.
  await dropAll(page, [
    ['odd1.obj', TRIANGLES(1)],
    ['odd2.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'],
    ['odd3.obj', TRIANGLES(2)],
  ])
  await expect(page.getByRole('alert').filter({ hasText: 'need the same points. Nothing was brought in.' })).toBeVisible()
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByRole('menuitem', { name: /^Text/ }).click()
  await drop(page, 'Our letters.woff', new Uint8Array(readFileSync('public/fonts/figtree.woff')))
  await expect(page.getByText('Text is set in Our letters.woff')).toBeVisible()
  await expect(page.getByText(/Text, [\d,]+ triangles, closed/)).toBeVisible()
  await expect
    .poll(async () => (await stored(id)).objects.slice(6).map((o) => [o.name, o.shape.kind]))
    .toEqual([
      ['bunting', 'mesh'],
      ['bell', 'mesh'],
      ['board', 'outline'],
      ['flag', 'mesh'],
      ['tent', 'mesh'],
      ['Text', 'text'],
    ])
  // One object a letter, in a group in its place.
  const row = page.getByRole('treeitem', { name: /^Text/ })
  await row.click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'One object a letter' }).click()
  await expect(page.getByText(/12 letters, each an object/)).toBeVisible()
  await exact(page)
})

test('a region is painted in the View, seen there, and births follow it', async ({ page }) => {
  const id = await copyShot('Painted', (d) => {
    lighter(d)
    // The stump alone, near the camera, without sparks in front of it.
    d.systems[0].birth = []
  })
  await openShot(page, id)
  await page.getByRole('treeitem', { name: /Stump/ }).click()
  const before = await picture(page)
  await page.getByRole('button', { name: 'Paint one' }).click()
  const stage = await page.getByTestId('stage').boundingBox()
  if (!stage) throw new Error('no stage')
  const at = (x: number, y: number) => [stage.x + stage.width * x, stage.y + stage.height * y] as const
  await page.mouse.move(...at(0.52, 0.78))
  await page.mouse.down()
  for (let i = 0; i <= 8; i++) {
    await page.mouse.move(...at(0.52 + i * 0.006, 0.78 + i * 0.004))
    await page.waitForTimeout(60)
  }
  await page.mouse.up()
  const region = async () => (await stored(id)).objects[1] as unknown as { regions: { id: string; acts: { dabs: number[][] }[] }[] }
  await expect.poll(async () => (await region()).regions[0]?.acts[0].dabs.length ?? 0).toBeGreaterThan(2)
  await expect(quality(page)).toContainText('with the region')
  expect((await picture(page)).equals(before)).toBe(false)
  // A whole stroke is one step back.
  await page.keyboard.press('Control+z')
  await expect(page.getByText('Undone: a stroke of the brush')).toBeVisible()
  await expect.poll(async () => (await region()).regions[0]?.acts[0].dabs.length).toBe(0)
  await page.keyboard.press('Control+Shift+z')
  // Births on it: a steady rate from the stump, on its painted part.
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await page.getByRole('button', { name: 'Add a birth' }).click()
  await page.getByRole('menuitem', { name: /^Steady rate/ }).click()
  await page.getByRole('combobox', { name: 'Source' }).click()
  await page.getByRole('option', { name: 'Stump', exact: true }).click()
  await page.getByRole('combobox', { name: 'Region' }).click()
  await page.getByRole('option', { name: 'Painted' }).click()
  await goTo(page, 20)
  expect(await alive(page)).toBeGreaterThan(100)
  await expect
    .poll(async () => (await stored(id)).systems[0].birth[0] as unknown as { region: string; source: string })
    .toMatchObject({ region: (await region()).regions[0].id, source: 'stump' })
})

test('a path is drawn in the View, its points are moved and added, and sparks start along it', async ({ page }) => {
  const id = await copyShot('Drawn', upTo(24))
  await openShot(page, id)
  const drawn = async () =>
    ((await stored(id)).objects.find((o) => o.shape.kind === 'path')?.shape as unknown as { points: number[][] } | undefined)?.points
  await page.getByRole('button', { name: 'Add an element' }).click()
  await page.getByRole('menuitem', { name: /^Shape/ }).click()
  await page.getByRole('menuitem', { name: /^Path/ }).click()
  await page.getByRole('button', { name: 'Draw again' }).click()
  const stage = await page.getByTestId('stage').boundingBox()
  if (!stage) throw new Error('no stage')
  for (const [x, y] of [
    [0.25, 0.6],
    [0.35, 0.3],
    [0.5, 0.5],
    [0.65, 0.2],
  ])
    await page.mouse.click(stage.x + stage.width * x, stage.y + stage.height * y)
  await page.keyboard.press('Escape')
  await expect(page.getByText('4 points')).toBeVisible()
  await expect.poll(async () => (await drawn())?.length).toBe(4)
  // A ring between two points becomes a fifth, where it is dragged to.
  const between = await page.locator('[data-handle=between]').first().boundingBox()
  if (!between) throw new Error('no ring')
  await page.mouse.move(between.x + between.width / 2, between.y + between.height / 2)
  await page.mouse.down()
  await page.mouse.move(between.x + 30, between.y + 40, { steps: 4 })
  await page.mouse.up()
  await expect(page.getByText('5 points')).toBeVisible()
  await type(page, 'Point 2 Y', '75cm')
  await expect.poll(async () => (await drawn())?.[1][1]).toBe(0.75)
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(page.getByText('4 points')).toBeVisible()
  await page.getByRole('treeitem', { name: /^Path/ }).click({ button: 'right' })
  await page.getByRole('menuitem', { name: 'Make it the source' }).click()
  await goTo(page, 20)
  expect(await alive(page)).toBeGreaterThan(300)
})

test('a reshape step that moves makes a source change shape while it plays', async ({ page }) => {
  const id = await copyShot('Reshaped', (d) => {
    lighter(d)
    Object.assign(d.objects[0], {
      reshape: [
        {
          id: 'wring',
          kind: 'twist',
          seed: 1,
          axis: 'y',
          angle: {
            keys: [
              { t: 0, v: 0, ease: 'linear' },
              { t: 2, v: 120, ease: 'linear' },
            ],
          },
        },
      ],
    })
  })
  await openShot(page, id)
  await goTo(page, 2)
  const still = await picture(page)
  await page.getByRole('treeitem', { name: /Anvil/ }).click()
  await expect(page.getByText(/Twists about Y by/)).toBeVisible()
  await page.getByRole('button', { name: 'Add a reshape step' }).click()
  await page.getByRole('menuitem', { name: /^Taper/ }).click()
  await exact(page, 2)
  expect((await picture(page)).equals(still)).toBe(false)
  await goTo(page, 40)
  expect(await alive(page)).toBeGreaterThan(500)
  await expect
    .poll(async () => ((await stored(id)).objects[0] as unknown as { reshape: { kind: string }[] }).reshape.map((a) => a.kind))
    .toEqual(['twist', 'taper'])
})

test('folders, marks, one looked at alone, a boost that is not saved, and copies that go into another shot', async ({ page }) => {
  const id = await copyShot('Ordered', lighter)
  await openShot(page, id)
  await goTo(page, 30)
  const menu = async (row: RegExp, ...path: string[]) => {
    await page.getByRole('treeitem', { name: row }).first().click({ button: 'right' })
    for (const [i, p] of path.entries()) {
      const item = page.getByRole('menuitem', { name: p, exact: i > 0 }).first()
      await (i === path.length - 1 ? item.click() : unfold(item))
    }
  }
  await menu(/Stump/, 'Folder', 'A new folder')
  await menu(/Anvil/, 'Folder', 'Folder 1')
  await menu(/Anvil/, 'Mark', 'rowan')
  await expect(page.getByRole('region', { name: 'Folder Folder 1' }).getByRole('treeitem')).toHaveCount(2)
  await expect
    .poll(async () =>
      (await stored(id)).objects.slice(0, 2).map((o) => [(o as { folder?: string }).folder !== undefined, (o as { mark?: string }).mark]),
    )
    .toEqual([
      [true, 'rowan'],
      [true, undefined],
    ])
  await page.getByRole('button', { name: 'Fold Folder 1' }).hover()
  await page.getByRole('button', { name: 'Take the folder Folder 1 away' }).click()
  await expect(page.getByRole('region', { name: 'Folder Folder 1' })).toHaveCount(0)
  const plain = await alive(page)
  await menu(/Anvil/, 'Look at it alone')
  await page.getByRole('treeitem', { name: /^Sparks/ }).click()
  await page.getByRole('button', { name: 'Preview boost of births' }).click()
  await page.getByRole('menuitem', { name: 'ten times' }).click()
  await expect(quality(page)).toContainText('Sharp, but not the whole shot', { timeout: 60000 })
  expect(await alive(page)).toBeGreaterThan(plain * 5)
  expect((await stored(id)).systems[0].birth[0].count).toBe(800)
  expect((await stored(id)).objects.every((o) => o.seen)).toBe(true)
  await page.getByRole('button', { name: 'As the shot is' }).click()
  await exact(page, 30)
  expect(await alive(page)).toBe(plain)
  await page.keyboard.press('Control+c')
  await expect(page.getByText(/Sparks is copied/)).toBeVisible()
  const other = await copyShot('Other', (d) => {
    lighter(d)
    d.systems = []
  })
  await openShot(page, other)
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('treeitem', { name: /^Sparks/ })).toBeVisible()
  await expect.poll(async () => (await stored(other)).systems.map((s) => [s.birth[0].count, s.birth[0].source])).toEqual([[800, 'anvil']])
})
