'use client'

import { useState } from 'react'
import { Input } from 'antd'
import { notesFromText, textOfNotes, type Output } from '@tender-lasso/core/document'
import { changeOutput } from '../../commands'
import { Row } from '../properties/Row'
import rows from '../properties/properties.module.css'

/** What each file says of itself beside what it always does. */
export function NotesRow({ output }: { output: Output }) {
  const [typed, setTyped] = useState<string | null>(null)
  const text = typed ?? textOfNotes(output.notes)
  const notes = notesFromText(text)
  const commit = () => {
    if (typed !== null && typeof notes !== 'string' && textOfNotes(notes) !== textOfNotes(output.notes))
      changeOutput(output, { notes }, 'notes')
    // What is wrong stays to be put right.
    if (typeof notes !== 'string') setTyped(null)
  }
  return (
    <>
      <Row label="Notes" help="Lines of name = value, said in the header of each file">
        <Input.TextArea
          size="small"
          aria-label="Notes in the files"
          autoSize={{ minRows: 1, maxRows: 6 }}
          placeholder="show = Wick Street"
          status={typeof notes === 'string' ? 'error' : undefined}
          value={text}
          onChange={({ target }) => setTyped(target.value)}
          onBlur={commit}
          onKeyDown={({ key }) => key === 'Escape' && setTyped(null)}
        />
      </Row>
      {typeof notes === 'string' && <p className={rows.bad}>{notes}</p>}
    </>
  )
}
