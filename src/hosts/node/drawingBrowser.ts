import { existsSync, mkdtempSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'playwright-core'
import flags from './chromium.json'
import { removeFolder, sweepLeftovers } from './leftovers'
import { UserError } from './shot'

/** For Debian's Chromium: draws in software where there is no GPU, and calls nobody. The browser's tests and benchmarks take the same. */
export const CHROMIUM_FLAGS = flags
/** The one without windows first: it starts in a quarter of the time, and draws the same bits (measured.md). */
const PLACES = ['chromium-headless-shell', 'chromium', 'chromium-browser'].map((name) => `/usr/bin/${name}`)
export const chromiumPath = (): string => {
  const path = process.env.EMBER_CHROMIUM ?? PLACES.find(existsSync)
  if (!path) throw new UserError('Chromium is not installed; install it with: apt-get install chromium-headless-shell')
  return path
}

/** Short: the browser has a socket some folders below it, whose whole path may have 107 letters, in whatever temporary folder this is. */
const FOLDER = 'emb-'
let swept = false
/** A headless Chromium for stages, each in a page of its own. Its temporary files go with it. */
export class DrawingBrowser {
  private constructor(
    private browser: Browser,
    private profile: string,
  ) {}
  static async launch(): Promise<DrawingBrowser> {
    // What others left who were killed.
    if (!swept) await sweepLeftovers(FOLDER, false)
    swept = true
    const profile = mkdtempSync(join(tmpdir(), `${FOLDER}${process.pid}-`))
    try {
      // Required, not imported: what is imported is read twice, the first time for its names, and it is large (0.2 s of every start).
      const { chromium } = createRequire(import.meta.url)('playwright-core') as typeof import('playwright-core')
      const browser = await chromium.launch({
        executablePath: chromiumPath(),
        args: CHROMIUM_FLAGS,
        // What a drawing may be made of came from outside: it sees no addresses and no passwords.
        env: { PATH: process.env.PATH ?? '', HOME: profile, TMPDIR: profile, LANG: 'C.UTF-8' },
      })
      return new DrawingBrowser(browser, profile)
    } catch (error) {
      rmSync(profile, { recursive: true, force: true })
      throw error
    }
  }
  page(): Promise<Page> {
    return this.browser.newPage()
  }
  async dispose(): Promise<void> {
    await this.browser.close().catch(() => {})
    await removeFolder(this.profile)
  }
}
