'use client'

import { useCallback, useEffect, useState } from 'react'
import { z } from 'zod'

const sizesSchema = z.object({ right: z.number(), threads: z.number(), faces: z.number(), subjects: z.number() })
type Sizes = z.infer<typeof sizesSchema>

const STORED_AS = 'panel-sizes'
/**
 * So that a plate of 16:9 has half of a screen of 1280 x 800. The lower panel is as high for threads as two rows need, and
 * higher for its other faces: it changes when the artist turns to another face, never with what is selected.
 */
const USUAL: Sizes = { right: 250, threads: 148, faces: 190, subjects: 290 }
const BOUNDS: Record<keyof Sizes, [number, number]> = {
  right: [210, 480],
  threads: [104, 340],
  faces: [120, 340],
  subjects: [90, 520],
}

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
