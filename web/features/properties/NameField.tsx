'use client'

import { useState } from 'react'
import { Input } from 'antd'

/** A name that is stored when Enter is pressed or the field is left; Escape gives up. */
export function NameField({ label, value, onCommit }: { label: string; value: string; onCommit(value: string): void }) {
  const [typed, setTyped] = useState<string | null>(null)
  const finish = () => {
    const name = typed?.trim()
    if (name && name !== value) onCommit(name)
    setTyped(null)
  }
  return (
    <Input
      size="small"
      aria-label={label}
      maxLength={120}
      value={typed ?? value}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={finish}
      onPressEnter={(event) => event.currentTarget.blur()}
      onKeyDown={(event) => {
        if (event.key === 'Escape') {
          setTyped(null)
          event.currentTarget.blur()
        }
      }}
    />
  )
}
