import type { KeyboardEvent } from 'react'

/**
 * Arrow keys walk through the rows of a grid that has the focus: up, down, to its ends, and in a tree left to what
 * carries a row and right to what it carries. The row that is reached is chosen.
 *
 * @param choose  chooses the row with that `data-id`
 */
export function walkRows(event: KeyboardEvent<HTMLElement>, choose: (id: string) => void) {
  const row = event.target as HTMLElement
  if (row.getAttribute('role') !== 'row' || event.altKey || event.ctrlKey || event.metaKey) return
  const rows = [...event.currentTarget.querySelectorAll<HTMLElement>('[role="row"]')]
  const next = rowAt(rows, rows.indexOf(row), event.key)
  if (next === undefined && event.key !== 'Enter') return
  event.preventDefault()
  // The page's own keys are meant for the picture.
  event.stopPropagation()
  const reached = next ?? row
  reached.focus()
  if (reached.dataset.id) choose(reached.dataset.id)
}

const levelOf = (row: HTMLElement) => Number(row.getAttribute('aria-level') ?? 0)

/** The row that a key leads to; undefined when the key is none of these. */
function rowAt(rows: readonly HTMLElement[], at: number, key: string): HTMLElement | undefined {
  const here = rows[at]!
  switch (key) {
    case 'ArrowDown':
      return rows[at + 1] ?? here
    case 'ArrowUp':
      return rows[at - 1] ?? here
    case 'Home':
      return rows[0]
    case 'End':
      return rows.at(-1)
    case 'ArrowLeft':
      return levelOf(here) ? (rows.slice(0, at).findLast((row) => levelOf(row) < levelOf(here)) ?? here) : undefined
    case 'ArrowRight':
      return levelOf(here) ? (rows[at + 1] && levelOf(rows[at + 1]!) > levelOf(here) ? rows[at + 1] : here) : undefined
    default:
      return undefined
  }
}
