'use client'

import Link from 'next/link'
import { App, Button, Popconfirm, Progress, Tooltip } from 'antd'
import { Trash2 } from 'lucide-react'
import { rateName } from '@tender-lasso/core/timing'
import { api, wordsOf, jobsChanged } from '../../session'
import type { JobInfo, ProjectInfo } from '../../store'
import styles from './board.module.css'
import { counted } from '../../words/counted'

export function ShotCard({
  shot,
  job,
  onChanged,
}: {
  shot: ProjectInfo['shots'][number]
  job: JobInfo | undefined
  onChanged(): void
}) {
  const { message } = App.useApp()
  const act = (path: string, method: string) =>
    void api(path, { method }).then(
      () => {
        jobsChanged()
        onChanged()
      },
      (error: unknown) => message.error(wordsOf(error)),
    )
  const frames = shot.lastFrame - shot.firstFrame + 1
  const middle = shot.firstFrame + Math.floor(frames / 2)
  const isReading = shot.state === 'ingesting'
  const done = job?.done ?? 0
  // The first frames are there to be worked at while the others are read.
  const canBeOpened = shot.state === 'ready' || (isReading && done > 0)
  const framesRead = `${done} of ${job?.total ?? 0} frames read`
  const progress = isReading && (
    <Progress
      aria-label={`Reading ${shot.name}`}
      percent={Math.round((100 * done) / Math.max(1, job?.total ?? 1))}
      size="small"
      showInfo={false}
    />
  )
  const picture = canBeOpened ? (
    <img src={`/api/shots/${shot.id}/frames/${isReading ? shot.firstFrame : middle}/display`} alt="" loading="lazy" />
  ) : (
    <span className={styles.pending}>
      {isReading ? (
        <>
          reading the plate
          {progress}
        </>
      ) : (
        <span className={styles.bad}>{shot.message}</span>
      )}
    </span>
  )
  return (
    <article className={styles.card} data-shot={shot.name}>
      {canBeOpened ? (
        <Link
          href={`/shots/${shot.id}`}
          className={styles.picture}
          // What is to be read on the link is part of its name: who speaks it to a machine says what they see.
          aria-label={isReading ? `Open ${shot.name}: ${framesRead}` : `Open ${shot.name}`}
        >
          {picture}
          {isReading && (
            <span className={styles.reading}>
              {framesRead}
              {progress}
            </span>
          )}
        </Link>
      ) : (
        <div className={styles.picture}>{picture}</div>
      )}
      <div className={styles.caption}>
        <span className={styles.shotName}>{shot.name}</span>
        <span className={styles.numbers}>
          {shot.firstFrame}-{shot.lastFrame} · {rateName(shot.rate)} fps · {shot.width}x{shot.height}
        </span>
        <span className={styles.actions}>
          {shot.state === 'ready' && <span className={styles.quiet}>{editsMade(shot.edits - 1)}</span>}
          {shot.state === 'ready' && shot.warnings.length > 0 && (
            <Tooltip
              title={shot.warnings.map((words) => (
                <div key={words}>{words}</div>
              ))}
            >
              <span className={styles.warned} tabIndex={0} data-testid="warnings">
                mended
              </span>
            </Tooltip>
          )}
          {shot.state === 'ingesting' && shot.jobId && (
            <Button size="small" onClick={() => act(`/api/jobs/${shot.jobId}/cancel`, 'POST')}>
              Cancel
            </Button>
          )}
          {shot.state === 'failed' && shot.jobId && (
            <Button size="small" onClick={() => act(`/api/jobs/${shot.jobId}/retry`, 'POST')}>
              Try again
            </Button>
          )}
          <Popconfirm
            title={`Delete ${shot.name}?`}
            description="The shot, its mattes and its history go for good; what is being read or written of it ends."
            okText="Delete"
            onConfirm={() => act(`/api/shots/${shot.id}`, 'DELETE')}
          >
            <button type="button" className={styles.trash} aria-label={`Delete ${shot.name}`}>
              <Trash2 size={13} />
            </button>
          </Popconfirm>
        </span>
      </div>
    </article>
  )
}

/** The first edit of a shot's log makes the shot itself. */
const editsMade = (count: number) => (count < 1 ? 'not begun' : counted(count, 'edit'))
