// Compiles what is written in AssemblyScript and writes it as text: bundlers and Node.js read that alike.
import { writeFileSync } from 'node:fs'
import path from 'node:path'
import { ASSEMBLIES, compiled, inProject } from './assemblies'

for (const { source, shipped, name } of ASSEMBLIES) {
  const text = Buffer.from(await compiled(source)).toString('base64')
  const lines = text.match(/.{1,110}/g)!.map((line) => `  '${line}'`)
  writeFileSync(
    inProject(shipped),
    `// Made from assembly/${path.basename(source)} by \`npm run build:assembly\`; do not edit.
const BASE64 = [
${lines.join(',\n')},
].join('')

/** The bytes of the module. */
export function ${name}(): Uint8Array<ArrayBuffer> {
  return Uint8Array.from(atob(BASE64), (letter) => letter.charCodeAt(0))
}
`,
  )
}
