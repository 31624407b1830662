import { existsSync } from 'node:fs'
import flags from './chromium.json' with { type: 'json' }

/** For Debian's Chromium: draws in software where there is no GPU, and calls nobody. The browser's tests and benchmarks take the same. */
export const CHROMIUM_FLAGS = flags
/** The one without windows first: it starts in a quarter of the time, and draws the same bits (measured.md). */
const PLACES = ['chromium-headless-shell', 'chromium', 'chromium-browser'].map((name) => `/usr/bin/${name}`)
/** The Chromium that draws; undefined where none is installed. */
export const chromiumPath = (): string | undefined => process.env.EMBER_CHROMIUM ?? PLACES.find(existsSync)
