import { say } from '../store'

/** Text as a file of the browser's, under a name of which no letter troubles a file system. */
export function saveAsFile(text: string, name: string, type: string) {
  saveBlobAsFile(new Blob([text], { type }), name)
}

export function saveBlobAsFile(blob: Blob, name: string) {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name.replace(/[^\p{L}\p{N}_.-]+/gu, '_')
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 1000)
}

/** Text on the clipboard, and words that say so or why not. */
export async function putOnClipboard(text: string, what: string) {
  try {
    await navigator.clipboard.writeText(text)
    say('said', `${what} is on the clipboard`)
  } catch {
    say('doubtful', 'The browser does not let the clipboard be written: save it as a file')
  }
}
