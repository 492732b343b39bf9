import { findShot } from '@tender-lasso/server/shots'
import { log } from '@tender-lasso/server/log'
import { Problem } from '@tender-lasso/server/errors'
import type { ShotInfo } from '../../../store'
import { Workspace, type Opening } from '../../../features/workspace/Workspace'

export const dynamic = 'force-dynamic'

export default async function ShotPage({ params }: { params: Promise<{ shotId: string }> }) {
  const opening = await openingOf((await params).shotId)
  return (
    <>
      {opening.info && <OnItsWay info={opening.info} />}
      <Workspace opening={opening} />
    </>
  )
}

/** The first picture is asked for before the scripts have been read; the document would be in their way. */
function OnItsWay({ info: { id, firstFrame } }: { info: ShotInfo }) {
  return (
    <link rel="preload" as="fetch" crossOrigin="anonymous" href={`/api/shots/${id}/frames/${firstFrame}/display`} />
  )
}

async function openingOf(shotId: string): Promise<Opening> {
  try {
    const info = await findShot(shotId)
    if (info.state === 'failed') return { failure: `The plate could not be read: ${info.message}` }
    return { info }
  } catch (error) {
    if (error instanceof Problem) return { failure: error.message }
    log.error({ err: error, shotId }, 'a shot could not be opened')
    return { failure: 'The server could not open it just now. Try again.' }
  }
}
