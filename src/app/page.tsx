import { ProjectsPage } from '@/studio/projects/ProjectsPage'

export default function Page() {
  return <ProjectsPage />
}
