'use client'

import { useEffect } from 'react'
import { setView, useShot } from '../../store'
import { toolOf } from './commands/tools'
import { commandsByKeys, useOwnKeys } from './ownKeys'

/** A tool's key held longer than this over an act of the pointer is a hold: letting go returns to the former tool. */
const HOLD_MS = 260
/** While held, everything drawn over the picture is hidden. */
const HIDE_KEY = 'h'

export function nameOfKeys(event: KeyboardEvent): string {
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key
  // A sign that needs Shift on some keyboards is named by itself.
  const shift = event.shiftKey && (key.length > 1 || /[a-z]/.test(key)) ? 'shift+' : ''
  const digit = event.altKey && /^Digit\d$/.test(event.code) ? event.code.slice(5) : key
  return `${event.ctrlKey || event.metaKey ? 'mod+' : ''}${event.altKey ? 'alt+' : ''}${shift}${digit}`
}

function isTyping(target: EventTarget | null): boolean {
  const element = target as HTMLElement | null
  return !!element?.closest('input:not([type=radio], [type=checkbox]), textarea, [contenteditable], .ant-modal')
}

/** A button or a choice that was clicked must not keep the keys to itself: the next key is meant for the picture. */
function letGoOfFocus(event: MouseEvent) {
  const active = document.activeElement as HTMLElement | null
  const hasChosen = !!(event.target as Element | null)?.closest('.ant-select-item-option')
  if (active && active !== document.body && (hasChosen || !isTyping(active))) active.blur()
}

/** Listens to the whole page while the workspace is open. */
export function useKeyboard() {
  useEffect(() => {
    let byKeys = commandsByKeys(useOwnKeys.getState().own)
    const forget = useOwnKeys.subscribe(({ own }) => (byKeys = commandsByKeys(own)))
    let heldTool: { key: string; since: number; hasActed: boolean } | null = null
    const down = (event: KeyboardEvent) => {
      if (isTyping(event.target) && event.key !== 'Escape') return
      if (event.key === HIDE_KEY && !event.ctrlKey && !event.metaKey && !event.altKey) {
        if (!event.repeat) setView({ hideOverlays: true })
        return
      }
      const name = nameOfKeys(event)
      const command = byKeys.get(name)
      if (!command) return
      event.preventDefault()
      if (toolOf(command)) {
        if (event.repeat) return
        heldTool = { key: name.split('+').at(-1)!, since: event.timeStamp, hasActed: false }
        useShot.setState({ toolBeforeHold: useShot.getState().tool })
      }
      command.run()
    }
    const up = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === HIDE_KEY) setView({ hideOverlays: false })
      if (!heldTool || event.key.toLowerCase() !== heldTool.key) return
      const { toolBeforeHold } = useShot.getState()
      const isHold = heldTool.hasActed && event.timeStamp - heldTool.since > HOLD_MS
      if (isHold && toolBeforeHold) useShot.setState({ tool: toolBeforeHold })
      heldTool = null
      useShot.setState({ toolBeforeHold: null })
    }
    // Without an act a busy page would take a tap for a hold, and the tool would be gone before it was used.
    const acted = () => {
      if (heldTool) heldTool.hasActed = true
    }
    window.addEventListener('pointerdown', acted)
    window.addEventListener('click', letGoOfFocus)
    window.addEventListener('keydown', down)
    window.addEventListener('keyup', up)
    return () => {
      forget()
      window.removeEventListener('pointerdown', acted)
      window.removeEventListener('click', letGoOfFocus)
      window.removeEventListener('keydown', down)
      window.removeEventListener('keyup', up)
    }
  }, [])
}
