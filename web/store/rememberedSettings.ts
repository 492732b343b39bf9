import type { PersistStorage, StorageValue } from 'zustand/middleware'
import { z } from 'zod'

/** What is kept of the state in this browser; of what is stored, whatever does not fit is left as ever. */
const rememberedSchema = z.object({
  editing: z
    .object({
      spanFalloff: z.number().int().min(0).max(200).optional().catch(undefined),
      makesKeys: z.boolean().optional().catch(undefined),
      onlyTouched: z.boolean().optional().catch(undefined),
      snaps: z.boolean().optional().catch(undefined),
      strokeWidth: z.number().positive().max(4000).optional().catch(undefined),
      rigPlan: z.string().max(40).optional().catch(undefined),
    })
    .catch({}),
  view: z
    .object({
      fillOpacity: z.number().min(0).max(1).optional().catch(undefined),
      // A picture for a ground is not kept, and so it cannot be the ground.
      cutoutGround: z.enum(['grey', 'checker', 'colour']).optional().catch(undefined),
      groundColour: z
        .string()
        .regex(/^#[0-9a-f]{6}$/i)
        .optional()
        .catch(undefined),
      lineWidth: z.number().min(0.2).max(10).optional().catch(undefined),
      handleSize: z.number().min(1).max(20).optional().catch(undefined),
      showsBox: z.boolean().optional().catch(undefined),
    })
    .catch({}),
})
export type RememberedSettings = z.infer<typeof rememberedSchema>

const NOTHING: RememberedSettings = { editing: {}, view: {} }

type Groups = Readonly<{ editing: object; view: object }>

let lastGroups: Groups | null = null
let lastRemembered = NOTHING

/** Settings of a state that are kept: what belongs to one shot or moment is not. Worked out anew only for other groups. */
export function rememberedOf({ editing, view }: Groups): RememberedSettings {
  if (lastGroups?.editing !== editing || lastGroups.view !== view) {
    lastGroups = { editing, view }
    lastRemembered = fittingSettings(lastGroups)
  }
  return lastRemembered
}

/** Stored settings as far as they fit. */
export function fittingSettings(stored: unknown): RememberedSettings {
  const parsed = rememberedSchema.safeParse(stored)
  return parsed.success ? withoutMissing(parsed.data) : NOTHING
}

function withoutMissing({ editing, view }: RememberedSettings): RememberedSettings {
  const present = <Group extends object>(group: Group) =>
    Object.fromEntries(Object.entries(group).filter(([, value]) => value !== undefined)) as Group
  return { editing: present(editing), view: present(view) }
}

/** The browser's storage, written only when a kept setting is another: the state changes with every move of the hand. */
export function settingsStorage<Settings>(): PersistStorage<Settings> {
  let lastState: Settings | null = null
  let last = ''
  return {
    getItem(name) {
      try {
        const text = localStorage.getItem(name)
        return text === null ? null : (JSON.parse(text) as StorageValue<Settings>)
      } catch {
        // Unreadable settings are as good as none.
        return null
      }
    },
    setItem(name, value) {
      if (typeof localStorage === 'undefined' || value.state === lastState) return
      lastState = value.state
      const text = JSON.stringify(value)
      if (text === last) return
      last = text
      try {
        localStorage.setItem(name, text)
      } catch {
        // A full or forbidden storage: the settings last until the page is closed.
      }
    },
    removeItem: (name) => localStorage.removeItem(name),
  }
}
