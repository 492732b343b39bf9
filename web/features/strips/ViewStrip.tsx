'use client'

import { useEffect, useState } from 'react'
import { findObject } from '@tender-lasso/core/document'
import { Tooltip } from 'antd'
import { CHANNELS, setView, useShot, VIEW_MODES, type OnionSkin, type ViewMode, viewer } from '../../store'
import { frameCache } from '../../session'
import { NumberField } from '../properties/NumberField'
import { toggleKeepInView, toggleOnion, toggleSteady } from '../keyboard/commands/view'
import { GroundChoice } from './GroundChoice'
import { LineLook } from './LineLook'
import styles from './strips.module.css'

const MODE_WORDS: Record<ViewMode, [string, string]> = {
  plate: ['Plate', 'The plate alone'],
  fill: ['Fill', 'The mattes as colour over the plate'],
  matte: ['Matte', 'The alpha of the selected Part, or of all'],
  cutout: ['Cut-out', 'What the matte keeps, over a plain ground'],
}
const CHANNEL_NAMES = { rgb: 'RGB', red: 'R', green: 'G', blue: 'B', luma: 'Luma' } as const

/** What the viewer shows and how, below the picture; nothing here changes the shot. */
export function ViewStrip() {
  const view = useShot((state) => state.view)
  const keptName = useShot(({ view: { keepInView }, document }) => {
    if (keepInView === null) return null
    return keepInView === 'selection' ? 'selection' : (findObject(document, 'track', keepInView.trackId)?.name ?? null)
  })
  const steady = useShot((state) =>
    state.view.steadyTrackId ? findObject(state.document, 'track', state.view.steadyTrackId)?.name : null,
  )
  return (
    <div className={styles.strip} role="toolbar" aria-label="View">
      <div className={styles.rolled} onWheel={({ currentTarget, deltaY }) => void (currentTarget.scrollLeft += deltaY)}>
        {VIEW_MODES.map((mode, i) => (
          <Tooltip key={mode} title={`${MODE_WORDS[mode][1]} (${i + 1})`} mouseEnterDelay={0.6}>
            <button
              type="button"
              className={mode === view.mode ? styles.active : styles.choice}
              aria-pressed={mode === view.mode}
              onClick={() => setView({ mode })}
            >
              {MODE_WORDS[mode][0]}
            </button>
          </Tooltip>
        ))}
        {view.mode === 'fill' && (
          <Opacity
            label="Opacity of the fill"
            share={view.fillOpacity}
            leastPercent={0}
            step={1}
            onCommit={(fillOpacity) => setView({ fillOpacity })}
          />
        )}
        {view.mode === 'cutout' && <GroundChoice />}
        <span className={styles.rule} />
        <Tooltip title="Channel shown (Shift R, G, B, L)" mouseEnterDelay={0.6}>
          <button
            type="button"
            className={view.channel === 'rgb' ? styles.choice : styles.active}
            onClick={() => setView({ channel: CHANNELS[(CHANNELS.indexOf(view.channel) + 1) % CHANNELS.length]! })}
          >
            {CHANNEL_NAMES[view.channel]}
          </button>
        </Tooltip>
        <NumberField
          label="Exposure in stops, for the eye only"
          prefix="EV"
          value={view.exposure}
          min={-8}
          max={8}
          step={0.1}
          decimals={1}
          onCommit={(exposure) => setView({ exposure })}
        />
        <NumberField
          label="Gamma, for the eye only"
          prefix="γ"
          value={view.gamma}
          min={0.2}
          max={5}
          step={0.05}
          decimals={2}
          onCommit={(gamma) => setView({ gamma })}
        />
        <span className={styles.rule} />
        <Tooltip
          title="Hold the picture still by the selected track, so that only the drift is left to see (Y)"
          mouseEnterDelay={0.6}
        >
          <button
            type="button"
            className={steady ? styles.active : styles.choice}
            aria-pressed={!!steady}
            onClick={toggleSteady}
          >
            {steady ? <Named what="Steady" name={steady} /> : 'Steady'}
          </button>
        </Tooltip>
        {steady && (
          <Tooltip
            title="Follows the way of the camera without its shake, in place of holding still (Shift Y)"
            mouseEnterDelay={0.6}
          >
            <button
              type="button"
              className={view.isSteadySmooth ? styles.active : styles.choice}
              aria-pressed={view.isSteadySmooth}
              onClick={() => setView({ isSteadySmooth: !view.isSteadySmooth })}
            >
              on rails
            </button>
          </Tooltip>
        )}
        {keptName && (
          <Tooltip title="The view goes along with it; click to let it go (Alt Y)" mouseEnterDelay={0.6}>
            <button type="button" className={styles.active} aria-pressed onClick={toggleKeepInView}>
              <Named what="in view" name={keptName} />
            </button>
          </Tooltip>
        )}
        {view.solo.length > 0 && (
          <button
            type="button"
            className={styles.active}
            aria-pressed
            title="Only these Parts are shown; click to show all (Alt H)"
            onClick={() => setView({ solo: [] })}
          >
            {view.solo.length === 1 ? 'alone' : `${view.solo.length} alone`}
          </button>
        )}
        <OnionControls />
        <Tooltip title="The selected outlines where the shutter opens and closes (Alt M)" mouseEnterDelay={0.6}>
          <button
            type="button"
            className={view.showsShutter ? styles.active : styles.choice}
            aria-pressed={view.showsShutter}
            onClick={() => setView({ showsShutter: !view.showsShutter })}
          >
            Shutter
          </button>
        </Tooltip>
        <LineLook />
        {view.compared && (
          <button
            type="button"
            className={styles.active}
            aria-pressed
            title="Outlines of another state of the shot; click to take them away"
            onClick={() => setView({ compared: null })}
          >
            <span className={styles.name}>{view.compared.name}</span>
          </button>
        )}
      </div>
      <CacheMeter />
      <Tooltip title="Fit (F), one to one (Z)" mouseEnterDelay={0.6}>
        <button type="button" className={styles.choice} onClick={() => viewer()?.fit()}>
          <span className={styles.number}>{Math.round(view.zoom * 100)} %</span>
        </button>
      </Tooltip>
    </div>
  )
}

interface OpacityProps {
  label: string
  /** 0 to 1; shown and typed as percent. */
  share: number
  leastPercent: number
  step: number
  onCommit(share: number): void
}

function Opacity({ label, share, leastPercent, step, onCommit }: OpacityProps) {
  return (
    <span className={styles.few}>
      <NumberField
        label={label}
        value={Math.round(share * 100)}
        unit="%"
        min={leastPercent}
        max={100}
        step={step}
        onCommit={(percent) => onCommit(percent / 100)}
      />
    </span>
  )
}

/** A choice and what it is about, which may have a long name. */
function Named({ what, name }: { what: string; name: string }) {
  return (
    <>
      {what}: <span className={styles.name}>{name}</span>
    </>
  )
}

/** Outlines before and after: how many, of keys or of frames, how strong. */
function OnionControls() {
  const onion = useShot((state) => state.view.onion)
  const set = (change: Partial<OnionSkin>) => setView({ onion: { ...onion, ...change } })
  return (
    <>
      <Tooltip title="Outlines of what is selected at the keys before and after (U)" mouseEnterDelay={0.6}>
        <button
          type="button"
          className={onion.count ? styles.active : styles.choice}
          aria-pressed={onion.count > 0}
          onClick={toggleOnion}
        >
          Onion skin
        </button>
      </Tooltip>
      {onion.count > 0 && (
        <>
          <span className={styles.few}>
            <NumberField
              label="Outlines to each side"
              value={onion.count}
              min={1}
              max={12}
              step={1}
              onCommit={(count) => set({ count })}
            />
          </span>
          <button
            type="button"
            className={styles.choice}
            title="Of the nearest keys, or of the nearest frames"
            onClick={() => set({ by: onion.by === 'keys' ? 'frames' : 'keys' })}
          >
            {onion.by}
          </button>
          <Opacity
            label="Opacity of the onion skin"
            share={onion.opacity}
            leastPercent={10}
            step={5}
            onCommit={(opacity) => set({ opacity })}
          />
        </>
      )}
    </>
  )
}

/** How much of the budget the held frames fill; a click empties it. */
function CacheMeter() {
  const shot = useShot((state) => state.info?.id)
  const [held, setHeld] = useState({ bytes: 0, budget: 1 })
  useEffect(() => {
    const cache = frameCache()
    if (!cache) return
    const read = () => setHeld({ bytes: cache.heldBytes, budget: cache.budget })
    read()
    return cache.onChangeInSteps(read)
  }, [shot])
  const megabytes = Math.round(held.bytes / 1e6)
  return (
    <Tooltip title={`Frames held in memory: ${megabytes} MB of ${Math.round(held.budget / 1e6)} MB. Click to empty.`}>
      <button
        type="button"
        className={styles.meter}
        onClick={() => frameCache()?.clear()}
        aria-label={`Frames in memory: ${megabytes} MB`}
      >
        <span style={{ width: `${Math.min(100, (100 * held.bytes) / held.budget)}%` }} />
      </button>
    </Tooltip>
  )
}
