import { Ahead } from '@/studio/Ahead'
import { ShotPage } from '@/studio/ShotPage'

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return (
    <>
      <Ahead />
      <ShotPage id={(await params).id} />
    </>
  )
}
