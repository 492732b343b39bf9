import { z } from 'zod'
import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import { settingsStorage } from '../../store'

const sizesSchema = z.object({ right: z.number(), threads: z.number(), faces: z.number(), subjects: z.number() })
type Sizes = z.infer<typeof sizesSchema>

/**
 * So that a plate of 16:9 has half of a screen of 1280 x 800. The lower panel is as high for threads as two rows need, and
 * higher for its other faces: it changes when the artist turns to another face, never with what is selected.
 */
const USUAL: Sizes = { right: 250, threads: 148, faces: 190, subjects: 290 }

/** Least and most of each. */
export const PANEL_BOUNDS: Record<keyof Sizes, [number, number]> = {
  right: [210, 480],
  threads: [104, 340],
  faces: [120, 340],
  subjects: [90, 520],
}

function bounded(sizes: Sizes): Sizes {
  const out = { ...sizes }
  for (const name of Object.keys(PANEL_BOUNDS) as (keyof Sizes)[]) {
    out[name] = Math.min(PANEL_BOUNDS[name][1], Math.max(PANEL_BOUNDS[name][0], out[name]))
  }
  return out
}

/** Sizes of the panels in CSS pixels, remembered in this browser. */
export const usePanelSizes = create<Sizes>()(
  persist(() => USUAL, {
    name: 'panel-sizes',
    storage: settingsStorage<Sizes>(),
    merge: (stored, usual) => {
      const parsed = sizesSchema.safeParse(stored)
      return parsed.success ? bounded(parsed.data) : usual
    },
  }),
)

export const setPanelSizes = (change: Partial<Sizes>) => usePanelSizes.setState(change)
