import { readFileSync } from 'node:fs'
import asc from 'assemblyscript/asc'

/** Inner loops in AssemblyScript, and the file that carries what they compile to. */
export const ASSEMBLIES = [
  { source: 'core/raster/feather/assembly/feather.ts', shipped: 'core/raster/feather/featherWasm.ts', name: 'featherWasm' },
  { source: 'core/raster/blur/assembly/blur.ts', shipped: 'core/raster/blur/blurWasm.ts', name: 'blurWasm' },
  { source: 'core/raster/planes/assembly/planes.ts', shipped: 'core/raster/planes/planesWasm.ts', name: 'planesWasm' },
  { source: 'core/tracking/kernel/assembly/alignment.ts', shipped: 'core/tracking/kernel/alignmentWasm.ts', name: 'alignmentWasm' },
  { source: 'formats/analysis/assembly/pack.ts', shipped: 'formats/analysis/packWasm.ts', name: 'packWasm' },
  { source: 'formats/analysis/assembly/unpack.ts', shipped: 'formats/analysis/unpackWasm.ts', name: 'unpackWasm' },
] as const // prettier-ignore

/** Address of a file of the project. */
export const inProject = (path: string) => new URL(`../${path}`, import.meta.url)

/** Compiles one to WebAssembly. The same source gives the same bytes. */
export async function compiled(path: string): Promise<Uint8Array> {
  const source = readFileSync(inProject(path), 'utf8')
  let wasm: Uint8Array | null = null
  const messages: string[] = []
  const stream = { write: (chunk: string | Uint8Array) => void messages.push(String(chunk)) }
  const { error } = await asc.main(
    ['source.ts', '--enable', 'simd', '--runtime', 'stub', '-O3', '--noAssert', '--outFile', 'out.wasm'],
    {
      stderr: stream,
      readFile: (name) => (name === 'source.ts' ? source : null),
      writeFile: (_, contents) => void (wasm = contents as Uint8Array),
    },
  )
  if (error || !wasm) throw new Error(`${path} does not compile:\n${messages.join('')}`)
  return wasm
}
