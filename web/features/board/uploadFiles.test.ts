import { DetailedError, type HttpResponse } from 'tus-js-client'
import { describe, expect, it } from 'vitest'
import { uploadFailure } from './uploadFiles'

const answered = (status: number, body = '') =>
  Object.assign(Object.create(DetailedError.prototype) as DetailedError, {
    originalResponse: { getStatus: () => status, getBody: () => body } as HttpResponse,
  })

describe('an upload that fails', () => {
  it('says in words what happened and what to do, with the file’s name', () => {
    expect(uploadFailure('a.png', new Error('tus: failed to upload chunk'))).toContain('a.png could not be sent: the server cannot be reached') // prettier-ignore
    expect(uploadFailure('a.png', answered(507, 'a.png has 9.0 GB, and the disk has 1.0 GB free'))).toContain(
      '1.0 GB free',
    )
    expect(uploadFailure('a.png', answered(500, 'Error: ENOSPC'))).toBe('a.png could not be stored (the disk may be full). Nothing of it was opened: try again') // prettier-ignore
    expect(uploadFailure('a.png', answered(413))).toContain('too large')
    expect(uploadFailure('a.png', answered(403))).toContain('(403)')
  })
})
