import { bundlePrograms } from './bundle'

/** Bundles the programs; setup.sh calls it when a source has changed. */
await bundlePrograms()
