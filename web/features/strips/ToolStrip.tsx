'use client'

import { outlineKeys } from '@tender-lasso/core/document'
import { Button, Segmented, Tooltip } from 'antd'
import { RIG_PLANS } from '@tender-lasso/core/edits'
import { useShot, STEP_TOOLS, TOOL_WORDS } from '../../store'
import { isRead } from '../../media'
import { stopTracking, TRACK_RUNS, setEditing } from '../../commands'
import { NumberField } from '../properties/NumberField'
import { ReachControls } from './ReachControls'
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
      {tool === 'joints' && <RigChoice />}
      {tool === 'stroke' && <StrokeWidth />}
      {(step === 'Shape' || step === 'Edge') && (
        <>
          <KeyState />
          <ReachControls />
        </>
      )}
    </div>
  )
}

/** What the joints are of, and which comes next. */
function RigChoice() {
  const rigPlan = useShot((state) => state.editing.rigPlan)
  return (
    <Segmented
      size="small"
      aria-label="What the joints are of"
      value={rigPlan}
      options={RIG_PLANS.map(({ name }) => name)}
      onChange={(name) => setEditing({ rigPlan: name })}
    />
  )
}

function StrokeWidth() {
  const strokeWidth = useShot((state) => state.editing.strokeWidth)
  return (
    <span className={styles.few}>
      <NumberField
        label="Width of a new stroke"
        value={strokeWidth}
        min={0.5}
        max={1000}
        step={1}
        decimals={1}
        unit="px"
        onCommit={(width) => setEditing({ strokeWidth: width })}
      />
    </span>
  )
}

function TrackRunControls() {
  const count = useShot((state) => state.selection.trackIds.length)
  const running = useShot((state) => state.track)
  const isWaiting = useShot(({ track, info, readStretches }) => {
    const beside = [(track?.frame ?? 0) - 1, (track?.frame ?? 0) + 1]
    return beside.some((frame) => info && frame >= info.firstFrame && frame <= info.lastFrame && !isRead(frame, readStretches)) // prettier-ignore
  })
  if (running) {
    return (
      <>
        <progress className={styles.progress} max={running.total} value={running.done} aria-label="Tracked so far" />
        <span className={styles.number}>
          {running.frame} · {running.done}/{running.total} · {running.framesPerSecond.toFixed(0)} fps ·{' '}
          {isWaiting ? 'waits for the plate' : `${Math.ceil(running.secondsLeft)} s left`}
        </span>
        <Button size="small" danger onClick={stopTracking}>
          Stop
        </Button>
      </>
    )
  }
  const disabled = count === 0
  return (
    <Tooltip title={disabled ? 'Mark or select a region or a point first' : ''}>
      <span className={styles.group}>
        {TRACK_RUNS.map(({ words, sign, keys, run }) => (
          <Tooltip key={words} title={disabled ? '' : `${words} (${keyWords(keys)})`} mouseEnterDelay={0.6}>
            <Button
              size="small"
              disabled={disabled}
              type={keys === 'w' ? 'primary' : 'default'}
              onClick={run}
              aria-label={words}
            >
              {keys === 'w' && count > 1 ? `${sign} · ${count}` : sign}
            </Button>
          </Tooltip>
        ))}
      </span>
    </Tooltip>
  )
}

/** "shift+q" as "Shift Q". */
const keyWords = (keys: string) =>
  keys
    .split('+')
    .map((key) => key[0]!.toUpperCase() + key.slice(1))
    .join(' ')

function KeyState() {
  const keys = useShot((state) => {
    const shape = state.selection.shapeIds[0] ? state.document.objects.get(state.selection.shapeIds[0]) : undefined
    if (shape?.kind !== 'shape') return null
    if (outlineKeys(shape).some((key) => key.time === state.frame)) return `key on ${state.frame}`
    return outlineKeys(shape).length === 1 ? '1 key' : `${outlineKeys(shape).length} keys`
  })
  return keys && <span className={styles.number}>{keys}</span>
}
