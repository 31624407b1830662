import { test as base, type Page } from '@playwright/test'
import { API, goWithin } from './helpers'

/**
 * Journeys that begin in an empty browser but share its page, and its workers, as somebody does who goes from shot to shot: scripts, kernels and
 * shaders need not be compiled for each. What a page keeps is cleared between them. One that fails ends its worker, and the next gets another browser.
 */
export const test = base.extend<{ page: Page }, { lasting: Page }>({
  lasting: [
    async ({ browser }, use) => {
      const context = await browser.newContext({ baseURL: API, viewport: { width: 1180, height: 600 } })
      await use(await context.newPage())
      await context.close()
    },
    { scope: 'worker' },
  ],
  page: async ({ lasting, viewport }, use) => {
    if (viewport) await lasting.setViewportSize(viewport)
    await goWithin(lasting, '/')
    await lasting.getByRole('heading', { name: 'Projects' }).waitFor()
    const devtools = await lasting.context().newCDPSession(lasting)
    await devtools.send('Storage.clearDataForOrigin', { origin: new URL(API).origin, storageTypes: 'all' })
    await devtools.detach()
    await use(lasting)
    lasting.removeAllListeners('pageerror')
    lasting.removeAllListeners('console')
    await lasting.unrouteAll()
    if (lasting.isClosed()) throw new Error('a journey must leave the page open: take one from a context of its own to close it')
  },
})
