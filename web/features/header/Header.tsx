'use client'

import { useEffect } from 'react'
import { useShallow } from 'zustand/react/shallow'
import Link from 'next/link'
import { Popover, Tooltip } from 'antd'
import { History, ListTodo, Redo2, Undo2 } from 'lucide-react'
import { rateName } from '@tender-lasso/core/timing'
import { useShot, showReports, useReports } from '../../store'
import { redo, undo, useJobs } from '../../session'
import { HealthNotice } from '../health/HealthNotice'
import styles from './header.module.css'
import { counted } from '../../words/counted'

const SAVE_WORDS = { saved: 'saved', saving: 'saving', offline: 'not sent yet', stopped: 'not stored' } as const
const SAVE_TIPS = {
  saved: 'Every edit is stored as it is made',
  saving: 'Every edit is stored as it is made',
  offline: 'The server cannot be reached. Your edits are kept in this browser and sent when it is back.',
  stopped: 'The server takes no edits of this shot just now; the message says why',
} as const

/** Project and shot, frame, rate, save state, running jobs, who is at work. */
export function Header() {
  const { info, author, undoLabel, redoLabel, setAside, historyOpen } = useShot(
    useShallow(({ info, author, undoLabel, redoLabel, setAside, historyOpen }) => ({
      info,
      author,
      undoLabel,
      redoLabel,
      setAside,
      historyOpen,
    })),
  )
  const areReportsOpen = useReports((state) => state.isOpen)
  const toggleReports = () => showReports(!areReportsOpen)
  return (
    <header className={styles.header}>
      <Link href="/" prefetch={false} className={styles.name} title="To the Shot board">
        Tender Lasso
      </Link>
      <span>{info?.projectName}</span>
      <span className={styles.quiet}>›</span>
      <span>{info?.name}</span>
      <Message />
      {info && (
        <>
          <FrameNumber />
          <span className={styles.numberQuiet}>
            {info.firstFrame}-{info.lastFrame} · {rateName(info.rate)} fps
          </span>
        </>
      )}
      <span className={styles.pair}>
        <Tooltip title={undoLabel ? `Undo: ${undoLabel}` : 'Nothing to undo'} mouseEnterDelay={0.4}>
          <button type="button" aria-label="Undo" disabled={!undoLabel} onClick={undo}>
            <Undo2 size={14} />
          </button>
        </Tooltip>
        <Tooltip title={redoLabel ? `Redo: ${redoLabel}` : 'Nothing to redo'} mouseEnterDelay={0.4}>
          <button type="button" aria-label="Redo" disabled={!redoLabel} onClick={redo}>
            <Redo2 size={14} />
          </button>
        </Tooltip>
        <Tooltip title="What happened: how tracks and other long work ended" mouseEnterDelay={0.4}>
          <button type="button" aria-label="What happened" aria-pressed={areReportsOpen} onClick={toggleReports}>
            <ListTodo size={14} />
          </button>
        </Tooltip>
        <Tooltip title="History and versions (Shift H)" mouseEnterDelay={0.4}>
          <button
            type="button"
            aria-label="History"
            aria-pressed={historyOpen}
            onClick={() => useShot.setState({ historyOpen: !historyOpen })}
          >
            <History size={14} />
          </button>
        </Tooltip>
      </span>
      {setAside.length > 0 && (
        <Popover
          title="Set aside: changed meanwhile by somebody else"
          content={setAside.map((entry, i) => (
            <p key={i} className={styles.aside}>
              {entry.label}: {entry.reason}
            </p>
          ))}
        >
          <span className={styles.bad}>{setAside.length} set aside</span>
        </Popover>
      )}
      <HealthNotice />
      <SaveState />
      <RunningJobs />
      <span className={styles.quiet}>{author}</span>
      <button
        type="button"
        className={styles.help}
        aria-label="Keys"
        onClick={() => useShot.setState({ helpOpen: true })}
      >
        ?
      </button>
    </header>
  )
}

function FrameNumber() {
  return <span className={styles.number}>{useShot((state) => state.frame)}</span>
}

function SaveState() {
  const saveState = useShot((state) => state.saveState)
  const waiting = useShot((state) => state.waiting)
  const isWaiting = saveState === 'offline' || saveState === 'stopped'
  return (
    <Tooltip title={SAVE_TIPS[saveState]}>
      <span
        className={saveState === 'stopped' ? styles.bad : isWaiting ? styles.doubtful : styles.quiet}
        data-testid="save-state"
      >
        {isWaiting ? `${counted(waiting, 'edit')} ${SAVE_WORDS[saveState]}` : SAVE_WORDS[saveState]}
      </span>
    </Tooltip>
  )
}

function RunningJobs() {
  const info = useShot((state) => state.info)
  const running = useJobs(info?.id).filter((job) => job.state === 'running' || job.state === 'queued')
  if (running.length === 0) return null
  const done = running.reduce((sum, job) => sum + job.done, 0)
  const total = running.reduce((sum, job) => sum + Math.max(1, job.total), 0)
  return (
    <span className={styles.number}>
      {counted(running.length, 'job')} {Math.round((100 * done) / total)} %
    </span>
  )
}

/** How long a message stays: long enough to be read twice, longer when something is wrong. */
const SHOWN_MS = { said: 8_000, doubtful: 20_000, bad: 60_000 }

/** The last thing said; it never stands in the way. */
function Message() {
  const message = useShot((state) => state.message)
  useEffect(() => {
    if (!message) return
    const timer = setTimeout(() => useShot.setState({ message: null }), SHOWN_MS[message.kind])
    return () => clearTimeout(timer)
  }, [message])
  return (
    <span className={styles.messagePlace}>
      {message && (
        <span key={message.at} className={styles[message.kind]} role="status" data-testid="message">
          {message.words}
        </span>
      )}
    </span>
  )
}
