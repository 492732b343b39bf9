import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { fittingSettings, rememberedOf, settingsStorage } from './rememberedSettings'
import { setView, useShot } from './shotStore'

/** As much of the browser's storage as is used. */
class Kept {
  readonly values = new Map<string, string>()
  writes = 0
  getItem = (name: string) => this.values.get(name) ?? null
  setItem = (name: string, value: string) => {
    this.writes++
    this.values.set(name, value)
  }
  removeItem = (name: string) => void this.values.delete(name)
}

let kept: Kept
beforeEach(() => vi.stubGlobal('localStorage', (kept = new Kept())))
afterEach(() => vi.unstubAllGlobals())

describe('settings that are remembered', () => {
  it('are what the artist chose, not what belongs to one shot', () => {
    const { editing, view } = useShot.getState()
    const remembered = rememberedOf({ editing, view: { ...view, lineWidth: 2, zoom: 3, steadyTrackId: 'board' } })
    expect(remembered.view.lineWidth).toBe(2)
    expect(Object.keys(remembered.view)).not.toContain('zoom')
    expect(Object.keys(remembered.editing)).not.toContain('reach')
  })

  it('come back one by one, whatever does not fit left as ever', () => {
    const stored = { view: { lineWidth: 3, handleSize: 'large', cutoutGround: 'picture', groundColour: '#00ff00' } }
    expect(fittingSettings({ editing: 'nonsense', ...stored })).toEqual({
      editing: {},
      view: { lineWidth: 3, groundColour: '#00ff00' },
    })
    for (const nonsense of [null, 7, 'settings', []])
      expect(fittingSettings(nonsense)).toEqual({ editing: {}, view: {} })
  })

  it('are written when one of them changes, and only then; the next page has them', async () => {
    kept.values.set('settings', JSON.stringify({ state: { editing: { makesKeys: false }, view: {} }, version: 1 }))
    await useShot.persist.rehydrate()
    expect(useShot.getState().editing.makesKeys).toBe(false)
    setView({ lineWidth: 2.5 })
    const { writes } = kept
    for (let frame = 1001; frame < 1010; frame++) useShot.setState({ frame })
    setView({ zoom: 2 })
    expect(kept.writes).toBe(writes)
    expect(kept.values.get('settings')).toContain('"lineWidth":2.5')
  })

  it('that cannot be read or written hinder nothing', () => {
    kept.values.set('settings', '{half')
    expect(settingsStorage().getItem('settings')).toBeNull()
    kept.setItem = () => {
      throw new Error('full')
    }
    expect(() => setView({ lineWidth: 1.5 })).not.toThrow()
    expect(useShot.getState().view.lineWidth).toBe(1.5)
  })
})
