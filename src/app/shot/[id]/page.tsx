import { ShotPage } from '@/studio/ShotPage'

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return (
    <>
      <script async src="/workers/early.js" fetchPriority="high" />
      <ShotPage id={(await params).id} />
    </>
  )
}
