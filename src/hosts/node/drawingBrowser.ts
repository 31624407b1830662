import { mkdtempSync, rmSync } from 'node:fs'
import { createRequire } from 'node:module'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Browser, Page } from 'playwright-core'
import { CHROMIUM_FLAGS, chromiumPath } from './chromium'
import { removeFolder, sweepLeftovers } from './leftovers'
import { UserError } from './shot'

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
    const executablePath = chromiumPath()
    if (!executablePath) throw new UserError('Chromium is not installed; install it with: apt-get install chromium-headless-shell')
    // What others left who were killed.
    if (!swept) await sweepLeftovers(FOLDER, false)
    swept = true
    const profile = mkdtempSync(join(tmpdir(), `${FOLDER}${process.pid}-`))
    try {
      // Required, not imported: what is imported is read twice, the first time for its names, and it is large (0.2 s of every start).
      const { chromium } = createRequire(import.meta.url)('playwright-core') as typeof import('playwright-core')
      const browser = await chromium.launch({
        executablePath,
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
