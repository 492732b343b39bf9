/** All files of a drop, also those inside dropped folders, without hidden ones. */
export async function droppedFiles(transfer: DataTransfer): Promise<File[]> {
  const entries = [...transfer.items].map((item) => item.webkitGetAsEntry()).filter((entry) => entry !== null)
  const files = entries.length ? (await Promise.all(entries.map(filesOf))).flat() : [...transfer.files]
  return files.filter((file) => !file.name.startsWith('.'))
}

async function filesOf(entry: FileSystemEntry): Promise<File[]> {
  if (entry.isFile) {
    return [await new Promise<File>((resolve, reject) => (entry as FileSystemFileEntry).file(resolve, reject))]
  }
  const reader = (entry as FileSystemDirectoryEntry).createReader()
  const inside: FileSystemEntry[] = []
  // A reader hands out entries in portions and an empty one at the end.
  for (;;) {
    const portion = await new Promise<FileSystemEntry[]>((resolve, reject) => reader.readEntries(resolve, reject))
    if (portion.length === 0) break
    inside.push(...portion)
  }
  return (await Promise.all(inside.map(filesOf))).flat()
}
