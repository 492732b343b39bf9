'use client'

import { useRef } from 'react'
import { Button, Input, Segmented } from 'antd'
import { layInstead, layPicture } from '../../commands'
import { setView, useShot, type ProofLaid } from '../../store'
import { Row } from '../properties/Row'
import styles from '../properties/properties.module.css'

type Kind = ProofLaid['content']['kind']

const KINDS: { value: Kind; label: string }[] = [
  { value: 'grid', label: 'Grid' },
  { value: 'text', label: 'Text' },
  { value: 'picture', label: 'Picture' },
]

/** What is laid on the four corners: a grid, words or a picture of one's own. */
export function ProofLaidRows() {
  const laid = useShot((state) => state.view.proofLaid)
  const file = useRef<HTMLInputElement>(null)
  if (!laid) return null
  const { content } = laid
  return (
    <>
      <Row label="Laid on" help="What the four corners carry; lay it anew with G">
        <Segmented<Kind>
          size="small"
          value={content.kind}
          options={KINDS}
          onChange={(kind) => {
            if (kind === 'picture') file.current?.click()
            else layInstead(kind === 'text' ? { kind, text: 'PROOF' } : { kind })
          }}
        />
      </Row>
      {content.kind === 'text' && (
        <Row label="Text">
          <Input
            size="small"
            aria-label="Text laid on the corners"
            maxLength={60}
            value={content.text}
            onChange={(event) => layInstead({ kind: 'text', text: event.target.value })}
          />
        </Row>
      )}
      {content.kind === 'picture' && (
        <Row label="Picture">
          <Button size="small" type="link" onClick={() => file.current?.click()}>
            {content.name}
          </Button>
        </Row>
      )}
      <input
        ref={file}
        type="file"
        accept="image/png,image/jpeg,image/webp"
        aria-label="Picture laid on the corners"
        hidden
        onChange={(event) => {
          const [picture] = event.target.files ?? []
          if (picture) void layPicture(picture)
          event.target.value = ''
        }}
      />
      <div className={styles.buttons}>
        <Button size="small" onClick={() => setView({ proofLaid: null })}>
          Take it off
        </Button>
      </div>
    </>
  )
}
