import { useShot, type ShotState } from './shotStore'

/**
 * Keeps what the artist last chose in this browser: named settings of one group of the state. What is stored comes back when
 * it is of the kind it was. Returns what ends the keeping.
 *
 * @param storedAs  name in the browser's storage
 * @param isFit     told of a stored value; false leaves the setting as ever
 */
export function remembered<Group extends object, Name extends keyof Group & string>(
  storedAs: string,
  names: readonly Name[],
  groupOf: (state: ShotState) => Group,
  put: (settings: Partial<Pick<Group, Name>>) => void,
  isFit: (name: Name, value: unknown) => boolean = () => true,
): () => void {
  try {
    const stored = JSON.parse(localStorage.getItem(storedAs) ?? '{}') as Record<string, unknown>
    const group = groupOf(useShot.getState())
    const known = names.filter((name) => typeof stored[name] === typeof group[name] && isFit(name, stored[name]))
    put(Object.fromEntries(known.map((name) => [name, stored[name]])) as Partial<Pick<Group, Name>>)
  } catch {
    // Unreadable settings are as good as none.
  }
  return useShot.subscribe((now, before) => {
    const group = groupOf(now)
    if (group === groupOf(before)) return
    localStorage.setItem(storedAs, JSON.stringify(Object.fromEntries(names.map((name) => [name, group[name]]))))
  })
}
