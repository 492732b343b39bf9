'use client'

import { Button, Tooltip } from 'antd'
import { useShot } from '../../state/shotStore'
import { STEP_TOOLS, TOOL_WORDS } from '../../state/steps'
import { runSelectedTrack, stopTracking } from '../../state/trackRunner'
import styles from './strips.module.css'

/** Tools of the step above the picture; on the right what the step adds. */
export function ToolStrip() {
  const step = useShot((state) => state.step)
  const tool = useShot((state) => state.tool)
  const tools = STEP_TOOLS[step].includes(tool) ? STEP_TOOLS[step] : [...STEP_TOOLS[step], tool]
  return (
    <div className={styles.strip} role="toolbar" aria-label="Tools">
      {tools.map((name) => (
        <Tooltip
          key={name}
          title={`${TOOL_WORDS[name].hint} (${TOOL_WORDS[name].key.toUpperCase()})`}
          mouseEnterDelay={0.6}
        >
          <button
            type="button"
            className={name === tool ? styles.active : styles.choice}
            aria-pressed={name === tool}
            onClick={() => useShot.setState({ tool: name })}
          >
            {TOOL_WORDS[name].name}
          </button>
        </Tooltip>
      ))}
      <span className={styles.gap} />
      {step === 'Track' && <TrackRunControls />}
      {(step === 'Shape' || step === 'Edge') && <KeyState />}
    </div>
  )
}

const RUNS = [
  { name: 'Track backward', sign: '◂◂ Start', keys: 'Q', run: () => void runSelectedTrack('backward') },
  { name: 'One frame back', sign: '◂', keys: 'Shift Q', run: () => void runSelectedTrack('backward', 1) },
  { name: 'Both ways', sign: null, keys: 'W', run: () => void runSelectedTrack('both') },
  { name: 'One frame on', sign: '▸', keys: 'Shift E', run: () => void runSelectedTrack('forward', 1) },
  { name: 'Track forward', sign: 'End ▸▸', keys: 'E', run: () => void runSelectedTrack('forward') },
] as const

function TrackRunControls() {
  const trackId = useShot((state) => state.selection.trackId)
  const running = useShot((state) => state.track)
  if (running) {
    return (
      <>
        <span className={styles.number}>
          {running.frame} · {running.done}/{running.total} · {running.framesPerSecond.toFixed(0)} fps
        </span>
        <Button size="small" danger onClick={stopTracking}>
          Stop
        </Button>
      </>
    )
  }
  const disabled = trackId === null
  return (
    <Tooltip title={disabled ? 'Mark or select a region first' : ''}>
      <span className={styles.group}>
        {RUNS.map(({ name, sign, keys, run }) => (
          <Tooltip key={name} title={disabled ? '' : `${name} (${keys})`} mouseEnterDelay={0.6}>
            <Button
              size="small"
              disabled={disabled}
              type={sign === null ? 'primary' : 'default'}
              onClick={run}
              aria-label={name}
            >
              {sign ?? name}
            </Button>
          </Tooltip>
        ))}
      </span>
    </Tooltip>
  )
}

function KeyState() {
  const keys = useShot((state) => {
    const shape = state.selection.shapeIds[0] ? state.document.objects.get(state.selection.shapeIds[0]) : undefined
    if (shape?.kind !== 'shape') return null
    return shape.keys.some((key) => key.time === state.frame) ? `key on ${state.frame}` : `${shape.keys.length} keys`
  })
  return keys && <span className={styles.number}>{keys}</span>
}
