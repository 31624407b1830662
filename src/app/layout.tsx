import type { Metadata } from 'next'
import '@fontsource-variable/figtree'
import './globals.css'

/** Pages are made for each request: their inline scripts carry a nonce of their own (server/web/door.ts). */
export const dynamic = 'force-dynamic'
export const metadata: Metadata = { title: 'Fox Ember', description: 'Particle effects on and around 3D objects' }
export default function RootLayout({ children }: { children: React.ReactNode }) {
  return (
    <html lang="en">
      <body>{children}</body>
    </html>
  )
}
