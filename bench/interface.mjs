// Measures the interface in headless Chromium against a server that is running: node bench/interface.mjs [http://127.0.0.1:4600]
// Prints a JSON line for each thing. Medians of several rounds; run it on a machine that does nothing else.
import { readFileSync } from 'node:fs'
import { chromium } from 'playwright-core'

const URL_ = process.argv[2] ?? 'http://127.0.0.1:4600'
const FLAGS = JSON.parse(readFileSync(new URL('../src/hosts/node/chromium.json', import.meta.url), 'utf8'))
const say = (line) => process.stdout.write(`${JSON.stringify(line)}\n`)
const median = (l) => [...l].sort((a, b) => a - b)[l.length >> 1]
const round = (v, d = 0) => Number(v.toFixed(d))
const json = async (path, init) => {
  const r = await fetch(URL_ + path, { ...init, headers: { 'content-type': 'application/json' } })
  if (!r.ok) throw new Error(`${path}: ${r.status} ${await r.text()}`)
  return r.json()
}
/** A copy of the demo with so many particles alive at its fullest. */
async function copy(times) {
  const project = (await json('/api/projects')).find((p) => p.shots.some((s) => s.name === 'Anvil strike'))
  const { doc } = await json(`/api/shots/${project.shots.find((s) => s.name === 'Anvil strike').id}`)
  doc.name = `Measured × ${times}`
  for (const b of doc.systems[0].birth) {
    if (b.count) b.count *= times
    if (b.rate) b.rate *= times
  }
  return (await json(`/api/projects/${project.id}/shots`, { method: 'POST', body: JSON.stringify({ doc }) })).id
}
async function measure(browser, times) {
  const id = await copy(times)
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } })
  const exact = () =>
    page.waitForFunction(() => /As rendered/.test(document.querySelector('[data-testid=quality]')?.textContent ?? ''), null, {
      timeout: 120000,
    })
  const quality = () => page.evaluate(() => ({ ...document.querySelector('[data-testid=quality]').dataset }))
  try {
    const opened = performance.now()
    await page.goto(`${URL_}/shot/${id}`)
    await page.waitForSelector('[data-testid=quality]')
    await exact()
    say({ what: 'opened and exact', times, ms: round(performance.now() - opened) })
    const ruler = await page.locator('[role=slider]').boundingBox()
    const seek = async (f) => {
      await page.mouse.click(ruler.x + Math.min(ruler.width - 2, (ruler.width * f) / 72), ruler.y + 20)
      await page.waitForFunction((n) => document.querySelector('[data-testid=frame]').textContent === `${n} f`, f)
      await exact()
    }
    await page.waitForFunction(() => /73 of 73/.test(document.body.textContent), null, { timeout: 300000 })
    await page.evaluate(() => {
      window.long = []
      new PerformanceObserver((l) => l.getEntries().forEach((e) => window.long.push(Math.round(e.duration)))).observe({ type: 'longtask' })
    })
    const longTasks = () => page.evaluate(() => window.long.splice(0))

    await seek(72)
    const changes = []
    for (let i = 0; i < 9; i++) {
      await page.waitForTimeout(600)
      const ms = await page.evaluate(async () => {
        const q = () => document.querySelector('[data-testid=quality]')
        const f = document.querySelector('[role=spinbutton][aria-label=Strength]')
        const t = performance.now()
        f.focus()
        f.dispatchEvent(new KeyboardEvent('keydown', { key: 'ArrowUp', bubbles: true }))
        let stale = false
        while (performance.now() - t < 60000) {
          await new Promise((r) => setTimeout(r, 4))
          const d = q().dataset
          if (d.ready === 'false') stale = true
          else if (stale && d.frame === '72') return performance.now() - t
        }
        return null
      })
      if (ms !== null) changes.push(ms)
    }
    say({
      what: 'a changed gravity seen at frame 72, exact',
      times,
      ms_median: round(median(changes)),
      ms_all: changes.map((c) => round(c)),
      long_tasks_ms: await longTasks(),
    })

    // A value dragged for two seconds.
    await page.getByRole('button', { name: 'Open Gravity' }).click()
    await page.waitForTimeout(500)
    const field = await page
      .getByRole('region', { name: 'Gravity' })
      .getByRole('spinbutton', { name: 'Strength', exact: true })
      .boundingBox()
    await longTasks()
    await page.mouse.move(field.x + 8, field.y + 8)
    await page.mouse.down()
    for (let i = 0; i < 60; i++) {
      await page.mouse.move(field.x + 8 + (i % 30) * 3, field.y + 8)
      await page.waitForTimeout(33)
    }
    await page.mouse.up()
    say({ what: 'tasks over 50 ms on the main thread while a value is dragged', times, long_tasks_ms: await longTasks() })
    await page.keyboard.press('Escape')
    await page.waitForFunction(() => /73 of 73/.test(document.body.textContent), null, { timeout: 300000 })

    await seek(1)
    await longTasks()
    await page.evaluate(() => performance.clearMarks())
    const begin = await page.evaluate(() => performance.now())
    await page.keyboard.press('Space')
    await page.waitForTimeout(10000)
    const played = await page.evaluate(() => ({ pictures: performance.getEntriesByName('ember-picture').length, now: performance.now() }))
    say({
      what: 'playing',
      times,
      pictures_per_second: round(played.pictures / ((played.now - begin) / 1000), 1),
      quality: await quality(),
      long_tasks_ms: await longTasks(),
    })
    const sharp = await page.evaluate(async () => {
      const t = performance.now()
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', bubbles: true }))
      while (performance.now() - t < 20000) {
        await new Promise((r) => setTimeout(r, 4))
        if (/As rendered/.test(document.querySelector('[data-testid=quality]').textContent)) return performance.now() - t
      }
      return null
    })
    say({ what: 'sharp again after standing still', times, ms: sharp === null ? null : round(sharp) })
  } finally {
    await page.close()
    await fetch(`${URL_}/api/shots/${id}`, { method: 'DELETE' })
  }
}
const browser = await chromium.launch({ executablePath: process.env.EMBER_CHROMIUM ?? '/usr/bin/chromium', args: FLAGS })
try {
  for (const times of [1, 5]) await measure(browser, times)
} finally {
  await browser.close()
}
