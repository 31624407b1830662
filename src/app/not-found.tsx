import Link from 'next/link'

export default function NotFound() {
  return (
    <main className="grid h-full place-content-center gap-2 text-center">
      <p className="text-title font-semibold">There is nothing at this address.</p>
      <p className="text-moss">
        <Link className="underline" href="/">
          Go to the projects
        </Link>
      </p>
    </main>
  )
}
