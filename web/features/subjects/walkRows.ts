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
  const grid = event.currentTarget
  const rows = rowsOf(grid)
  const isEnd = event.key === 'Home' || event.key === 'End'
  const next = isEnd ? undefined : rowAt(rows, rows.indexOf(row), event.key)
  if (next === undefined && !isEnd && event.key !== 'Enter') return
  event.preventDefault()
  // The page's own keys are meant for the picture.
  event.stopPropagation()
  const reach = (reached: HTMLElement) => {
    reached.focus()
    if (reached.dataset.id) choose(reached.dataset.id)
  }
  if (!isEnd) return reach(next ?? row)
  const end = event.key === 'End' ? -1 : 0
  // Of a long list the rows at its end are there only once it is scrolled to them.
  if (rows.length >= Number(grid.getAttribute('aria-rowcount') ?? 0)) return reach(rows.at(end)!)
  grid.scrollTo({ top: end ? grid.scrollHeight : 0 })
  requestAnimationFrame(() => requestAnimationFrame(() => reach(rowsOf(grid).at(end)!)))
}

const rowsOf = (grid: HTMLElement) => [...grid.querySelectorAll<HTMLElement>('[role="row"]')]

const levelOf = (row: HTMLElement) => Number(row.getAttribute('aria-level') ?? 0)

/** The row that a key leads to; undefined when the key is none of these. */
function rowAt(rows: readonly HTMLElement[], at: number, key: string): HTMLElement | undefined {
  const here = rows[at]!
  switch (key) {
    case 'ArrowDown':
      return rows[at + 1] ?? here
    case 'ArrowUp':
      return rows[at - 1] ?? here
    case 'ArrowLeft':
      return levelOf(here) ? (rows.slice(0, at).findLast((row) => levelOf(row) < levelOf(here)) ?? here) : undefined
    case 'ArrowRight':
      return levelOf(here) ? (rows[at + 1] && levelOf(rows[at + 1]!) > levelOf(here) ? rows[at + 1] : here) : undefined
    default:
      return undefined
  }
}
