import { nameFrom } from '@tender-lasso/core/handoff'
import { readSettings } from '../settings'
import { keys, openStore, type Store } from '../store'
import type { Delivery } from './payload'
import { MANIFEST, readManifest, type HandoffTarget } from './write'

/**
 * Copies a finished delivery into the folder that the administrator has named, each file whole or not at all and the manifest last. What is there of this
 * delivery is written over; other deliveries never are.
 *
 * @returns where it lies in that folder, or null where none is named
 */
export async function copyToFolder(
  delivery: Delivery,
  target: HandoffTarget,
  signal: AbortSignal,
  folder = readSettings().deliveries,
): Promise<{ folder: string } | null> {
  if (folder === null) return null
  const from = openStore(target.store)
  const to = openStore(folder)
  const manifest = (await readManifest(from, target.key))!
  const place = await freePlace(to, delivery, target)
  // While it is being written over it is not whole.
  await to.delete(keys.below(place, MANIFEST))
  for (const path of [...manifest.files.map((file) => file.path), MANIFEST]) {
    signal.throwIfAborted()
    // A copy, never a second name of the store's own file: what others do to theirs is theirs.
    await to.put(keys.below(place, path), await from.read(keys.below(target.key, path)))
  }
  return { folder: place }
}

/** Shot, output and version; with a number where another delivery lies there, of a shot or an output of the same name. */
async function freePlace(
  to: Store,
  { output, version }: Delivery,
  { shotId, shotName }: HandoffTarget,
): Promise<string> {
  const wanted = nameFrom(
    '{shot}/{output}/{version}',
    { shot: shotName, output: output.name, part: '', version, frame: 0 },
    1,
  )
  const marker = '.delivery'
  // The same for every job that makes a delivery of this output of this shot.
  const own = `${shotId} ${output.id}`
  for (let n = 1; ; n++) {
    const place = n === 1 ? wanted : `${wanted}_${n}`
    const owner = await to.read(keys.below(place, marker)).catch(() => null)
    if (owner && new TextDecoder().decode(owner) !== own) continue
    if (!owner) await to.put(keys.below(place, marker), own)
    return place
  }
}
