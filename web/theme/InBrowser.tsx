import { useSyncExternalStore, type ReactNode } from 'react'

const never = () => () => undefined

/**
 * Made in the browser alone: the server has nothing to show before the document is there, and making all panels twice
 * would hold up the scripts.
 */
export function InBrowser({ children }: { children: ReactNode }) {
  const isBrowser = useSyncExternalStore(
    never,
    () => true,
    () => false,
  )
  return isBrowser && children
}
