'use client'

import type { ReactNode } from 'react'
import { Eye, EyeOff, Focus, Link2, Lock, LockOpen, Scissors } from 'lucide-react'
import { fieldSet } from '@tender-lasso/core/edits'
import { findObject, type Part, type RotoDocument } from '@tender-lasso/core/document'
import { css, partColour, SHADE_COUNT, select, useShot, toggleSolo } from '../../store'
import { edit } from '../../session'
import { NameInPlace } from './NameInPlace'
import { RowButton } from './RowButton'
import styles from './subjects.module.css'

export const choosePart = (partId: string) =>
  select({ partId, shapeIds: [], pointIds: new Set(), trackIds: [], keys: [] })

/** One Part in either face: its shade, its name, eye and lock. */
export function PartRow({
  part,
  indent = 0,
  isTree = false,
  note,
  handle,
}: {
  part: Part
  indent?: number
  /** It stands in a tree, at a level of its own. */
  isTree?: boolean
  note?: string
  handle?: ReactNode
}) {
  const document = useShot((state) => state.document)
  const isSelected = useShot((state) => state.selection.partId === part.id)
  const isSolo = useShot((state) => state.view.solo.includes(part.id))
  return (
    <div
      className={isSelected ? styles.rowSelected : styles.row}
      style={{ paddingLeft: 10 + indent * 14 }}
      onClick={() => choosePart(part.id)}
      data-part={part.name}
      data-id={part.id}
      aria-selected={isSelected}
      aria-level={isTree ? indent + 1 : undefined}
      aria-label={part.name}
      role="row"
      tabIndex={0}
    >
      <span role="gridcell" className={styles.cells}>
        {handle}
        <button
          type="button"
          className={styles.shade}
          style={{ background: css(partColour(document, part)), opacity: part.visible ? 1 : 0.35 }}
          title="Shade of its Subject's hue; click for the next one"
          aria-label={`Shade of ${part.name}`}
          onClick={(event) => {
            event.stopPropagation()
            edit(`shade of ${part.name}`, [fieldSet(part, 'shade', (part.shade + 1) % SHADE_COUNT)])
          }}
        />
        <NameInPlace
          id={part.id}
          value={part.name}
          onCommit={(name) => edit(`name ${name}`, [fieldSet(part, 'name', name)])}
        />
        {part.holdsOut && note !== undefined && (
          <Scissors size={11} className={styles.quiet} role="img" aria-label="holds out what is behind" />
        )}
        {part.instance && (
          <Link2 size={11} className={styles.quiet} role="img" aria-label={followWords(document, part)}>
            <title>{followWords(document, part)}</title>
          </Link2>
        )}
        {note !== undefined && <span className={styles.note}>{note}</span>}
        <RowButton
          label={part.locked ? 'Unlock' : 'Lock'}
          isOn={part.locked}
          onPress={() =>
            edit(`${part.locked ? 'unlock' : 'lock'} ${part.name}`, [fieldSet(part, 'locked', !part.locked)])
          }
        >
          {part.locked ? <Lock size={12} /> : <LockOpen size={12} />}
        </RowButton>
        <RowButton
          label={part.visible ? 'Hide' : 'Show'}
          hint={isSolo ? 'Shown alone: Alt-click shows all again' : 'Alt-click shows this Part alone'}
          isOn={!part.visible || isSolo}
          onPress={(isAlone) =>
            isAlone
              ? toggleSolo(part.id)
              : edit(`${part.visible ? 'hide' : 'show'} ${part.name}`, [fieldSet(part, 'visible', !part.visible)])
          }
        >
          {isSolo ? <Focus size={12} /> : part.visible ? <Eye size={12} /> : <EyeOff size={12} />}
        </RowButton>
      </span>
    </div>
  )
}

function followWords(document: RotoDocument, { instance }: Part): string {
  const name = instance ? findObject(document, 'part', instance.of)?.name : undefined
  return `${instance?.mirror ? 'reflection of' : 'follows'} ${name ?? 'nothing'}`
}
