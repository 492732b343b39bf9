'use client'

import { useState, type FormEvent } from 'react'
import { Button, Input, Select, Tooltip } from 'antd'
import { Copy } from 'lucide-react'
import type { Output } from '@tender-lasso/core/document'
import type { LiveToken } from '@tender-lasso/core/handoff'
import { putOnClipboard } from '../../commands'
import { api, useLiveTokens, wordsOf } from '../../session'
import { say } from '../../store'
import styles from './handoff.module.css'

const DAYS = [
  { value: 1, label: 'for a day' },
  { value: 7, label: 'for a week' },
  { value: 30, label: 'for a month' },
  { value: 90, label: 'for three months' },
]

/** The address at which others read an output as it is now, and who is let in there. */
export function LiveAddress({ shotId, output }: { shotId: string; output: Output | undefined }) {
  const { tokens, look } = useLiveTokens(shotId)
  const [name, setName] = useState('')
  const [days, setDays] = useState(30)
  const [isAsking, setIsAsking] = useState(false)
  const [fresh, setFresh] = useState<{ name: string; token: string } | null>(null)
  if (!output) return <p className={styles.empty}>Choose an output.</p>
  const address = `${window.location.origin}/live/${shotId}/${output.id}`
  const failed = (error: unknown) => say('bad', wordsOf(error))

  const letIn = (event: FormEvent) => {
    event.preventDefault()
    setIsAsking(true)
    api<{ info: LiveToken; token: string }>(`/api/shots/${shotId}/live`, { body: JSON.stringify({ name, days }) })
      .then(({ info, token }) => {
        setFresh({ name: info.name, token })
        setName('')
        look()
      }, failed)
      .finally(() => setIsAsking(false))
  }
  const revoke = (token: LiveToken) =>
    void api(`/api/live/${token.id}`, { method: 'DELETE' }).then(() => {
      say('said', `${token.name} reads this shot no more`)
      look()
    }, failed)

  return (
    <div className={styles.live}>
      {fresh ? (
        <div role="status">
          <Copied
            label={`${fresh.name}, shown once:`}
            text={`${address}?token=${fresh.token}`}
            what="Address with token"
            title="For bin/watch, which mirrors it into a folder, or any program"
          />
        </div>
      ) : (
        <Copied
          text={`${address}/FRAME.exr`}
          what="Address"
          title="Each frame as it is now, also as .png; manifest.json lists them, events tells of changes"
        />
      )}
      <form className={styles.letIn} onSubmit={letIn}>
        <Input
          size="small"
          aria-label="Who reads"
          placeholder="Who reads, for instance a desk"
          maxLength={100}
          value={name}
          onChange={({ target }) => setName(target.value)}
        />
        <Select size="small" aria-label="How long" options={DAYS} value={days} onChange={setDays} />
        <Button
          size="small"
          htmlType="submit"
          loading={isAsking}
          disabled={name.trim() === ''}
          title="Makes a token that reads all outputs of this shot and changes nothing"
        >
          Let in
        </Button>
      </form>
      <Readers tokens={tokens} onRevoke={revoke} />
    </div>
  )
}

function Readers({ tokens, onRevoke }: { tokens: LiveToken[] | null; onRevoke(token: LiveToken): void }) {
  if (!tokens) return <p className={styles.quiet}>Looking …</p>
  if (tokens.length === 0) return <p className={styles.quiet}>Nobody is let in.</p>
  return (
    <ul className={styles.list} aria-label="Readers">
      {tokens.map((token) => (
        <li key={token.id} className={styles.item}>
          <div className={styles.title}>
            <span>{token.name}</span>
            <span className={styles.quiet}>until {day(token.expiresAt)}</span>
            <span className={styles.quiet}>{token.usedAt ? `read ${moment(token.usedAt)}` : 'has not read yet'}</span>
            <span className={styles.acts}>
              <Button size="small" type="text" aria-label={`Revoke ${token.name}`} onClick={() => onRevoke(token)}>
                Revoke
              </Button>
            </span>
          </div>
        </li>
      ))}
    </ul>
  )
}

function Copied({ label, text, what, title }: { label?: string; text: string; what: string; title: string }) {
  return (
    <div className={styles.address}>
      {label && <span className={styles.quiet}>{label}</span>}
      <code title={title}>{text}</code>
      <Tooltip title={`Copy: ${what}`}>
        <Button
          size="small"
          type="text"
          aria-label={`Copy: ${what}`}
          icon={<Copy size={13} />}
          onClick={() => void putOnClipboard(text, what)}
        />
      </Tooltip>
    </div>
  )
}

const DAY: Intl.DateTimeFormatOptions = { day: 'numeric', month: 'short' }
const day = (at: string) => new Date(at).toLocaleDateString(undefined, DAY)
const moment = (at: string) => new Date(at).toLocaleString(undefined, { ...DAY, hour: '2-digit', minute: '2-digit', hour12: false }) // prettier-ignore
