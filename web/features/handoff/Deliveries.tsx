'use client'

import { useEffect, useState } from 'react'
import { Button, Progress } from 'antd'
import { isShow, type Output } from '@tender-lasso/core/document'
import { versionWord, type DeliveryInfo } from '@tender-lasso/core/handoff'
import { api, jobsChanged, wordsOf } from '../../session'
import { showDelivery } from '../../commands'
import { say, setView, useShot } from '../../store'
import { DeliveryLookedAt } from './DeliveryLookedAt'
import { framesWord } from './outputWords'
import styles from './handoff.module.css'

/** Deliveries of the chosen output, newest first. */
export function Deliveries({ output, deliveries }: { output: Output | undefined; deliveries: DeliveryInfo[] | null }) {
  const own = deliveries?.filter(({ outputId }) => outputId === output?.id) ?? []
  if (own.length === 0)
    return <p className={styles.empty}>{deliveries === null ? 'Looking …' : 'Nothing was written yet.'}</p>
  return (
    <ul className={styles.list} aria-label="Hand-offs">
      {own.map((delivery, i) => (
        <Delivery
          key={delivery.jobId}
          delivery={delivery}
          outputName={output!.name}
          isLookedAt={!isShow(output!.layout)}
          isAgain={own.slice(i + 1).some(({ version }) => version === delivery.version)}
        />
      ))}
    </ul>
  )
}

const WHEN: Intl.DateTimeFormatOptions = { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', hour12: false } // prettier-ignore

const STATE_WORDS: Record<DeliveryInfo['state'], string> = {
  queued: 'waiting',
  running: 'writing',
  done: 'whole',
  failed: 'failed',
  cancelled: 'cancelled',
}

interface DeliveryProps {
  delivery: DeliveryInfo
  outputName: string
  /** Its files hold mattes that can be looked at one by one. */
  isLookedAt: boolean
  /** It was made once more. */
  isAgain: boolean
}

function Delivery({ delivery, outputName, isLookedAt, isAgain }: DeliveryProps) {
  const [isOpen, setIsOpen] = useState(false)
  const { jobId, version, state, done, total, range, message, at } = delivery
  const act = (address: string) =>
    void api(address, { method: 'POST' }).then(jobsChanged, (error: unknown) => say('bad', wordsOf(error)))
  const name = versionWord(version)
  const isShown = useShot(({ view }) => view.delivery?.jobId === jobId)
  return (
    <li className={styles.item}>
      <div className={styles.title}>
        <span>
          {name}
          {isAgain && ' again'} · {framesWord(range)}
        </span>
        <span className={styles.quiet}>{new Date(at).toLocaleString(undefined, WHEN)}</span>
        <span className={state === 'failed' ? styles.bad : styles.quiet}>{STATE_WORDS[state]}</span>
        <span className={styles.acts}>
          {(state === 'running' || state === 'queued') && (
            <Button size="small" onClick={() => act(`/api/jobs/${jobId}/cancel`)}>
              Cancel
            </Button>
          )}
          {(state === 'failed' || state === 'cancelled') && (
            <Button size="small" onClick={() => act(`/api/jobs/${jobId}/retry`)}>
              Resume
            </Button>
          )}
          {state === 'done' && (
            <>
              {isLookedAt && (
                <Button
                  size="small"
                  title="In the viewer, against the mattes as they are now"
                  onClick={() =>
                    isShown ? setView({ delivery: null }) : void showDelivery(jobId, `${outputName} ${name}`)
                  }
                >
                  {isShown ? 'Hide' : 'Show'}
                </Button>
              )}
              <Button size="small" href={`/api/exports/${jobId}/zip`}>
                Download ZIP
              </Button>
              <Button size="small" type="text" onClick={() => setIsOpen(!isOpen)}>
                {isOpen ? 'Hide files' : 'Files'}
              </Button>
              <Button
                size="small"
                type="text"
                title={`${name} once more, of the same edits with the same settings`}
                onClick={() => act(`/api/exports/${jobId}/again`)}
              >
                Again
              </Button>
            </>
          )}
        </span>
      </div>
      {state === 'running' && (
        <Progress aria-label={`Writing ${name}`} size="small" percent={Math.round((100 * done) / Math.max(1, total))} />
      )}
      {message && <p className={styles.bad}>{message}</p>}
      {isShown && <DeliveryLookedAt />}
      {isOpen && <FileList jobId={jobId} />}
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
