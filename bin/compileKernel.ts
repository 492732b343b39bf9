import { readFileSync } from 'node:fs'
import asc from 'assemblyscript/asc'

/** Compiles alignment's inner loops, in core/tracking/kernel/assembly, to WebAssembly. The same source gives the same bytes. */
export async function compileAlignment(): Promise<Uint8Array> {
  const source = readFileSync(new URL('../core/tracking/kernel/assembly/alignment.ts', import.meta.url), 'utf8')
  let wasm: Uint8Array | null = null
  const messages: string[] = []
  const stream = { write: (chunk: string | Uint8Array) => void messages.push(String(chunk)) }
  const { error } = await asc.main(
    ['alignment.ts', '--enable', 'simd', '--runtime', 'stub', '-O3', '--noAssert', '--outFile', 'alignment.wasm'],
    {
      stderr: stream,
      readFile: (name) => (name === 'alignment.ts' ? source : null),
      writeFile: (_, contents) => void (wasm = contents as Uint8Array),
    },
  )
  if (error || !wasm) throw new Error(`The alignment kernel does not compile:\n${messages.join('')}`)
  return wasm
}
