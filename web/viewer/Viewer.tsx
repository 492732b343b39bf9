'use client'

import { useEffect, useRef, useState } from 'react'
import { Alert } from 'antd'
import { importSvgFile } from '../commands'
import { isRead } from '../media'
import { wordsOf } from '../session'
import { useShot } from '../store'
import { TOOLS } from './tools'
import { ViewerStage } from './viewerStage'
import styles from './viewer.module.css'

/** The plate with its mattes and lines, and the tool in the hand. */
export function Viewer() {
  const holder = useRef<HTMLDivElement>(null)
  const plainCanvas = useRef<HTMLCanvasElement>(null)
  const plateCanvas = useRef<HTMLCanvasElement>(null)
  const restingCanvas = useRef<HTMLCanvasElement>(null)
  const activeCanvas = useRef<HTMLCanvasElement>(null)
  const [failure, setFailure] = useState<string | null>(null)
  const tool = useShot((state) => state.tool)

  useEffect(() => {
    const stage = new ViewerStage(
      holder.current!,
      {
        plain: plainCanvas.current!,
        plate: plateCanvas.current!,
        resting: restingCanvas.current!,
        active: activeCanvas.current!,
      },
      (error) => setFailure(wordsOf(error)),
    )
    return () => stage.close()
  }, [])

  return (
    <div
      ref={holder}
      className={styles.viewer}
      data-testid="viewer"
      style={{ cursor: TOOLS[tool].cursor }}
      onDragOver={(event) => event.preventDefault()}
      onDrop={(event) => {
        event.preventDefault()
        const [file] = event.dataTransfer.files
        if (file) void importSvgFile(file)
      }}
    >
      <canvas ref={plainCanvas} className={styles.layer} />
      <canvas ref={plateCanvas} className={styles.layer} hidden />
      <canvas ref={restingCanvas} className={styles.layer} />
      <canvas ref={activeCanvas} className={styles.layer} data-testid="picture" />
      <MissingFrame />
      {failure && <Alert className={styles.failure} type="error" showIcon title={failure} />}
    </div>
  )
}

/** In place of a picture that is not there. */
function MissingFrame() {
  const frame = useShot((state) => state.frame)
  const isUnread = useShot(({ frame, readStretches }) => !isRead(frame, readStretches))
  const awaited = useShot((state) => (state.awaited?.frame === state.frame ? state.awaited : null))
  if (!isUnread && !awaited) return null
  const why = isUnread
    ? 'is not read yet'
    : awaited!.isLost
      ? 'does not come from the server; it is asked for again'
      : 'is on its way'
  return (
    <span className={styles.missing} role="status" data-testid="missing-frame">
      Frame {frame} {why}
    </span>
  )
}
