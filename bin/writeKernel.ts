// Compiles the kernel and writes it, as text, to alignmentWasm.ts: bundlers and Node.js read that alike.
import { writeFileSync } from 'node:fs'
import { compileAlignment } from './compileKernel'

const text = Buffer.from(await compileAlignment()).toString('base64')
const lines = text.match(/.{1,110}/g)!.map((line) => `  '${line}'`)
writeFileSync(
  new URL('../core/tracking/kernel/alignmentWasm.ts', import.meta.url),
  `// Made from assembly/alignment.ts by \`npm run build:kernel\`; do not edit.
const BASE64 = [
${lines.join(',\n')},
].join('')

/** The bytes of alignment's inner loops. */
export function alignmentWasm(): Uint8Array<ArrayBuffer> {
  return Uint8Array.from(atob(BASE64), (letter) => letter.charCodeAt(0))
}
`,
)
