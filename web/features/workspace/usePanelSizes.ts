'use client'

import { useCallback, useEffect, useState } from 'react'
import { z } from 'zod'

const sizesSchema = z.object({ right: z.number(), bottom: z.number(), subjects: z.number() })
type Sizes = z.infer<typeof sizesSchema>

const STORED_AS = 'panel-sizes'
const USUAL: Sizes = { right: 262, bottom: 168, subjects: 230 }
const BOUNDS: Record<keyof Sizes, [number, number]> = { right: [210, 480], bottom: [110, 340], subjects: [90, 460] }

function bounded(sizes: Sizes): Sizes {
  const out = { ...sizes }
  for (const name of Object.keys(BOUNDS) as (keyof Sizes)[]) {
    out[name] = Math.min(BOUNDS[name][1], Math.max(BOUNDS[name][0], out[name]))
  }
  return out
}

/** Sizes of the panels in CSS pixels, remembered in this browser. */
export function usePanelSizes(): [Sizes, (change: Partial<Sizes>) => void] {
  const [sizes, setSizes] = useState(USUAL)
  useEffect(() => {
    try {
      const stored = sizesSchema.safeParse(JSON.parse(localStorage.getItem(STORED_AS) ?? 'null'))
      if (stored.success) setSizes(bounded(stored.data))
    } catch {
      localStorage.removeItem(STORED_AS)
    }
  }, [])
  const change = useCallback((part: Partial<Sizes>) => {
    setSizes((before) => {
      const next = bounded({ ...before, ...part })
      localStorage.setItem(STORED_AS, JSON.stringify(next))
      return next
    })
  }, [])
  return [sizes, change]
}
