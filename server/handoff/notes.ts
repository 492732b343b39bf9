import { crc32 } from 'node:zlib'
import { textOfNotes, type OutputNote } from '@tender-lasso/core/document'

/** Signature and header chunk, which come first. */
const AFTER_HEADER = 8 + 25

/** A PNG with notes as international text chunks, not compressed. After the PNG specification (W3C, third edition), 11.3.3.4. */
export function withPngText(png: Uint8Array, notes: readonly OutputNote[]): Uint8Array {
  if (notes.length === 0) return png
  const chunks = notes.map(({ name, value }) => chunkOf('iTXt', Buffer.from(`${name}\0\0\0\0\0${value}`)))
  return Buffer.concat([png.subarray(0, AFTER_HEADER), ...chunks, png.subarray(AFTER_HEADER)])
}

function chunkOf(type: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data])
  const chunk = Buffer.alloc(body.length + 8)
  chunk.writeUInt32BE(data.length, 0)
  chunk.set(body, 4)
  chunk.writeUInt32BE(crc32(body), body.length + 4)
  return chunk
}

const ENTITIES: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;' }

/** Notes as the description of a picture, one a line. After XMP (ISO 16684-1) and Dublin Core. */
export function xmpOfNotes(notes: readonly OutputNote[]): string {
  const text = textOfNotes(notes).replace(/[&<>]/g, (letter) => ENTITIES[letter]!)
  return [
    '<rdf:RDF xmlns:rdf="http://www.w3.org/1999/02/22-rdf-syntax-ns#">',
    '<rdf:Description rdf:about="" xmlns:dc="http://purl.org/dc/elements/1.1/">',
    `<dc:description><rdf:Alt><rdf:li xml:lang="x-default">${text}</rdf:li></rdf:Alt></dc:description>`,
    '</rdf:Description></rdf:RDF>',
  ].join('')
}
