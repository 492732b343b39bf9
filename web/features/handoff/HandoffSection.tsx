'use client'

import { useShallow } from 'zustand/react/shallow'
import { useEffect, useState } from 'react'
import { Button, InputNumber, Progress, Segmented, Select, Switch } from 'antd'
import { findObject } from '@tender-lasso/core/document'
import { partsByDepth, shownShapesOf } from '@tender-lasso/core/evaluation'
import { api, wordsOf, jobsChanged, useJobs } from '../../session'
import { say, shotRange, useShot, type JobInfo } from '../../store'
import { Row } from '../properties/Row'
import rows from '../properties/properties.module.css'
import styles from './handoff.module.css'

type Format = 'png16' | 'exr-half'

/** Chooses what to write, and lists what has been written. */
export function HandoffSection() {
  const { info, document, selection } = useShot(
    useShallow(({ info, document, selection }) => ({ info, document, selection })),
  )
  const parts = partsByDepth(document, shotRange()[0]).filter((part) => shownShapesOf(document, part).shapes.length > 0)
  const [chosen, setChosen] = useState<string[] | null>(null)
  const [range, setRange] = useState<[number, number] | null>(null)
  const [withHoldouts, setWithHoldouts] = useState(true)
  const [motionBlur, setMotionBlur] = useState(true)
  const [format, setFormat] = useState<Format>('png16')
  const [isSending, setIsSending] = useState(false)
  if (!info) return null
  if (parts.length === 0) return <p className={rows.hint}>There is no matte to hand off yet: draw a shape first.</p>
  const partIds = (chosen ?? (selection.partId ? [selection.partId] : parts.map((part) => part.id))).filter((id) =>
    parts.some((part) => part.id === id),
  )
  const [first, last] = range ?? [info.firstFrame, info.lastFrame]
  const start = async () => {
    setIsSending(true)
    try {
      await api(`/api/shots/${info.id}/exports`, {
        body: JSON.stringify({ partIds, range: [first, last], withHoldouts, motionBlur, format }),
      })
      jobsChanged()
      say('said', `Writing ${partIds.length} matte${partIds.length === 1 ? '' : 's'}, frames ${first} to ${last}`)
    } catch (error) {
      say('bad', wordsOf(error))
    } finally {
      setIsSending(false)
    }
  }
  return (
    <>
      <Row label="Parts">
        <Select
          mode="multiple"
          size="small"
          aria-label="Parts to hand off"
          maxTagCount={2}
          value={partIds}
          options={parts.map((part) => ({
            value: part.id,
            label: `${findObject(document, 'subject', part.subjectId)?.name ?? ''} ${part.name}`,
          }))}
          onChange={setChosen}
        />
      </Row>
      <Row label="Range">
        <span className={styles.range}>
          <InputNumber
            size="small"
            aria-label="First frame"
            min={info.firstFrame}
            max={last}
            value={first}
            onChange={(v) => v !== null && setRange([v, last])}
          />
          <InputNumber
            size="small"
            aria-label="Last frame"
            min={first}
            max={info.lastFrame}
            value={last}
            onChange={(v) => v !== null && setRange([first, v])}
          />
        </span>
      </Row>
      <Row label="Format">
        <Segmented<Format>
          size="small"
          value={format}
          options={[
            { label: 'PNG 16', value: 'png16' },
            { label: 'EXR half', value: 'exr-half' },
          ]}
          onChange={setFormat}
        />
      </Row>
      <Row label="Holdouts" help="Cut what stands in front out of each matte">
        <Switch size="small" aria-label="Holdouts" checked={withHoldouts} onChange={setWithHoldouts} />
      </Row>
      <Row label="Motion blur">
        <Switch size="small" aria-label="Motion blur" checked={motionBlur} onChange={setMotionBlur} />
      </Row>
      <Button
        type="primary"
        size="small"
        loading={isSending}
        disabled={partIds.length === 0}
        onClick={() => void start()}
      >
        Write {partIds.length} matte{partIds.length === 1 ? '' : 's'}
      </Button>
      <ExportList shotId={info.id} />
    </>
  )
}

function ExportList({ shotId }: { shotId: string }) {
  const jobs = useJobs(shotId).filter((job) => job.kind === 'export')
  if (jobs.length === 0) return null
  return (
    <ul className={styles.list} aria-label="Hand-offs">
      {jobs.map((job) => (
        <ExportItem key={job.id} job={job} />
      ))}
    </ul>
  )
}

const STATE_WORDS: Record<JobInfo['state'], string> = {
  queued: 'waiting',
  running: 'writing',
  done: 'done',
  failed: 'failed',
  cancelled: 'cancelled',
}

function ExportItem({ job }: { job: JobInfo }) {
  const [isOpen, setIsOpen] = useState(false)
  const act = (verb: 'cancel' | 'retry') =>
    void api(`/api/jobs/${job.id}/${verb}`, { method: 'POST' }).then(jobsChanged, (error: unknown) =>
      say('bad', wordsOf(error)),
    )
  return (
    <li className={styles.item}>
      <div className={styles.title}>
        <span>{job.title}</span>
        <span className={job.state === 'failed' ? rows.bad : rows.value}>{STATE_WORDS[job.state]}</span>
      </div>
      {job.state === 'running' && (
        <Progress aria-label={job.title} size="small" percent={Math.round((100 * job.done) / Math.max(1, job.total))} />
      )}
      {job.message && <p className={rows.bad}>{job.message}</p>}
      <div className={rows.buttons}>
        {(job.state === 'running' || job.state === 'queued') && (
          <Button size="small" onClick={() => act('cancel')}>
            Cancel
          </Button>
        )}
        {(job.state === 'failed' || job.state === 'cancelled') && (
          <Button size="small" onClick={() => act('retry')}>
            Resume
          </Button>
        )}
        {job.state === 'done' && (
          <>
            <Button size="small" href={`/api/exports/${job.id}/zip`}>
              Download ZIP
            </Button>
            <Button size="small" type="text" onClick={() => setIsOpen(!isOpen)}>
              {isOpen ? 'Hide files' : 'Files'}
            </Button>
          </>
        )}
      </div>
      {isOpen && <FileList jobId={job.id} />}
    </li>
  )
}

interface ListedFile {
  path: string
  bytes: number
  sha256: string
}

function FileList({ jobId }: { jobId: string }) {
  const [files, setFiles] = useState<ListedFile[] | null>(null)
  useEffect(() => {
    api<{ files: ListedFile[] }>(`/api/exports/${jobId}`).then(
      (manifest) => setFiles(manifest.files),
      (error: unknown) => say('bad', wordsOf(error)),
    )
  }, [jobId])
  return (
    <ol className={styles.files}>
      {files?.map((file) => (
        <li key={file.path} title={`${file.bytes} bytes, SHA-256 ${file.sha256}`}>
          {file.path} <span>{file.sha256.slice(0, 10)}</span>
        </li>
      ))}
    </ol>
  )
}
