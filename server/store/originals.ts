import { sha256OfFile } from './hashes'
import { keys } from './keys'
import type { Store } from './store'

/** Takes a file into the store by its content and returns the hash. The same content is kept once. */
export async function keepOriginal(store: Store, file: string): Promise<string> {
  const hash = await sha256OfFile(file)
  const key = keys.original(hash)
  // As new: what nothing refers to yet must not be collected while a shot is made of it.
  if (await store.about(key)) await store.renew(key)
  else await store.putFile(key, file)
  return hash
}
