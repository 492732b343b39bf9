'use client'

import { useEffect, useRef } from 'react'

/**
 * For what the panel should show at once though it may be scrolled elsewhere.
 *
 * @param what  it is brought into sight whenever this becomes something else, but not when that is false
 */
export function useBroughtIntoSight(what: object | boolean) {
  const place = useRef<HTMLDivElement>(null)
  useEffect(() => {
    if (what) place.current?.scrollIntoView({ block: 'nearest' })
  }, [what])
  return place
}
