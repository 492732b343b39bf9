'use client'

import { useRef } from 'react'
import { Button } from 'antd'
import { takeFromFile } from '../../commands'

interface ReadTextButtonProps {
  /** What stands on the button. */
  words: string
  title?: string
  /** Names what is chosen: "Track data file". */
  label: string
  accept: string
  onText(text: string): void | Promise<void>
}

/** Asks for a text file and hands on what stands in it. */
export function ReadTextButton({ words, title, label, accept, onText }: ReadTextButtonProps) {
  const file = useRef<HTMLInputElement>(null)
  return (
    <>
      <Button size="small" title={title} onClick={() => file.current?.click()}>
        {words}
      </Button>
      <input
        ref={file}
        type="file"
        hidden
        accept={accept}
        aria-label={label}
        onChange={({ target }) => {
          const chosen = target.files?.[0]
          target.value = ''
          if (chosen) void takeFromFile(chosen, onText)
        }}
      />
    </>
  )
}
