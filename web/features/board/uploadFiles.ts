import { Upload } from 'tus-js-client'

export interface UploadedFile {
  upload: string
  name: string
}

const AT_ONCE = 3

/**
 * Uploads by the tus protocol, a few files at once; each goes on where it was after a broken connection.
 *
 * @param onProgress  bytes sent and bytes in all
 * @param signal      stops everything
 */
export async function uploadFiles(
  files: readonly File[],
  onProgress: (sent: number, total: number) => void,
  signal: AbortSignal,
): Promise<UploadedFile[]> {
  const total = files.reduce((sum, file) => sum + file.size, 0)
  const sent = new Array<number>(files.length).fill(0)
  const uploaded = new Array<UploadedFile>(files.length)
  let next = 0
  const lane = async () => {
    while (next < files.length && !signal.aborted) {
      const index = next++
      const file = files[index]!
      const upload = await uploadOne(file, signal, (bytes) => {
        sent[index] = bytes
        onProgress(
          sent.reduce((a, b) => a + b),
          total,
        )
      })
      uploaded[index] = { upload, name: file.name }
    }
  }
  await Promise.all(Array.from({ length: Math.min(AT_ONCE, files.length) }, lane))
  signal.throwIfAborted()
  return uploaded
}

function uploadOne(file: File, signal: AbortSignal, onBytes: (bytes: number) => void): Promise<string> {
  return new Promise((resolve, reject) => {
    const upload = new Upload(file, {
      endpoint: '/api/uploads',
      retryDelays: [0, 500, 1500, 4000, 8000],
      chunkSize: 16 * 2 ** 20,
      metadata: { filename: file.name },
      removeFingerprintOnSuccess: true,
      onProgress: onBytes,
      onError: reject,
      onSuccess: () => resolve(upload.url!.split('/').at(-1)!),
    })
    signal.addEventListener('abort', () => {
      void upload.abort(true)
      reject(new DOMException('Cancelled', 'AbortError'))
    })
    void upload.findPreviousUploads().then(([previous]) => {
      if (previous) upload.resumeFromPreviousUpload(previous)
      upload.start()
    })
  })
}
