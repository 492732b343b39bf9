import { readSettings } from '../settings'
import { FolderStore } from './folderStore'
import type { Store } from './store'

/** The store at an address: a folder of this machine. Threads are told the address, since a store is not theirs to share. */
export const openStore = (address: string): Store => new FolderStore(address)

/** Address of the store that the settings name. */
export const storeAddress = () => readSettings().dataFolder

/** The store that the settings name. */
export const mediaStore = () => openStore(storeAddress())
