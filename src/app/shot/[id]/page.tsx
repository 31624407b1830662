import { ShotPage } from '@/studio/ShotPage'

export default async function Page({ params }: { params: Promise<{ id: string }> }) {
  return <ShotPage id={(await params).id} />
}
