import { expect, it } from 'vitest'
import { ASSEMBLIES, compiled, inProject } from './assemblies'

it.each(ASSEMBLIES)('$shipped carries what its source compiles to', async ({ source, shipped, name }) => {
  const module = (await import(inProject(shipped).href)) as Record<string, () => Uint8Array>
  expect(Buffer.from(await compiled(source)).equals(Buffer.from(module[name]!()))).toBe(true)
})
