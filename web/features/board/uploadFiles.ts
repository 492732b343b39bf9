import { DetailedError, Upload } from 'tus-js-client'

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

/** Out of reach, or busy with the same upload, or failed by itself: what may go another time. */
const isWorthAnother = (status: number) =>
  status === 0 || status === 409 || status === 423 || (status >= 500 && status !== 507)

/** Why a file could not be sent, in words: what happened, what is safe, what to do. */
export function uploadFailure(name: string, error: Error): string {
  const response = error instanceof DetailedError ? error.originalResponse : null
  const status = response?.getStatus() ?? 0
  if (status === 0)
    return `${name} could not be sent: the server cannot be reached. Open it again; it goes on where it was`
  // Too little room is said by the server itself.
  if (status === 507) return response!.getBody() || `${name} could not be sent: the disk is full`
  if (status === 413) return `${name} is too large to be opened`
  if (status >= 500) return `${name} could not be stored (the disk may be full). Nothing of it was opened: try again`
  return `${name} could not be sent: the server refused it (${status})`
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
      // Too little room does not change by asking again at once.
      onShouldRetry: (error) => isWorthAnother(error.originalResponse?.getStatus() ?? 0),
      onError: (error) => reject(new Error(uploadFailure(file.name, error))),
      onSuccess: () => {
        // What has been sent is the server's: a dialog that closes afterwards must not take it back.
        signal.removeEventListener('abort', takeBack)
        resolve(upload.url!.split('/').at(-1)!)
      },
    })
    const takeBack = () => {
      // The server collects what it is not told of within an hour.
      upload.abort(true).catch(() => undefined)
      reject(new DOMException('Cancelled', 'AbortError'))
    }
    signal.addEventListener('abort', takeBack, { once: true })
    void upload.findPreviousUploads().then(([previous]) => {
      if (previous) upload.resumeFromPreviousUpload(previous)
      upload.start()
    }, reject)
  })
}
