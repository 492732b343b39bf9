import { Workspace } from '../../../features/workspace/Workspace'

export default async function ShotPage({ params }: { params: Promise<{ shotId: string }> }) {
  return <Workspace shotId={(await params).shotId} />
}
