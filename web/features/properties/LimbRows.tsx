'use client'

import { useState } from 'react'
import { Button } from 'antd'
import { limbCopied } from '@tender-lasso/core/edits'
import { type Part } from '@tender-lasso/core/document'
import { select, useShot } from '../../store'
import { edit } from '../../session'
import { NumberField } from './NumberField'
import styles from './properties.module.css'

/** The limb once more, or its mirror image, so many frames later. */
export function LimbRows({ part }: { part: Part }) {
  const [delay, setDelay] = useState(0)
  const copy = (isMirrored: boolean) => {
    const { patches, partId } = limbCopied(useShot.getState().document, part, { isMirrored, delay })
    if (edit(`${isMirrored ? 'mirror' : 'duplicate'} ${part.name}`, patches)) {
      select({ partId, shapeIds: [], pointIds: new Set(), keys: [] })
    }
  }
  return (
    <div
      className={styles.row}
      title="With all that it carries and all its keys, so many frames later; mirrored about the pivot of what carries it"
    >
      <span>Limb again</span>
      <span className={styles.buttons}>
        <NumberField label="Frames later" value={delay} min={-1000} max={1000} step={1} unit="fr" onCommit={setDelay} />
        <Button size="small" onClick={() => copy(false)}>
          Same
        </Button>
        <Button size="small" onClick={() => copy(true)}>
          Mirrored
        </Button>
      </span>
    </div>
  )
}
