import { whileOpen, wordsOf } from '../session'
import { say } from '../store'

/** Takes a file's text into the shot that was open when it was asked for; words say why it cannot be read. */
export async function takeFromFile(file: File, take: (text: string) => unknown): Promise<void> {
  const isOpen = whileOpen()
  let text: string
  try {
    text = await file.text()
  } catch (error) {
    return say('bad', `${file.name} cannot be read: ${wordsOf(error)}`)
  }
  if (isOpen()) await take(text)
}

/** The same of the clipboard. */
export async function takeFromClipboard(take: (text: string) => unknown): Promise<void> {
  const isOpen = whileOpen()
  let text: string
  try {
    text = await navigator.clipboard.readText()
  } catch {
    return say('doubtful', 'The browser does not let the clipboard be read: open it as a file')
  }
  if (isOpen()) await take(text)
}
