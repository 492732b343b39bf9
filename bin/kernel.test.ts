import { expect, it } from 'vitest'
import { alignmentWasm } from '../core/tracking/kernel/alignmentWasm'
import { compileAlignment } from './compileKernel'

it('the kernel that is shipped is the one that its source gives', async () => {
  expect(Buffer.from(await compileAlignment()).equals(Buffer.from(alignmentWasm()))).toBe(true)
})
