'use client'

import { useShallow } from 'zustand/react/shallow'
import { useState } from 'react'
import { Button, Checkbox, Tooltip } from 'antd'
import { Copy, Plus, Trash2 } from 'lucide-react'
import type { Output } from '@tender-lasso/core/document'
import { findObject } from '@tender-lasso/core/document'
import { outputsInOrder, wordsOfHeld } from '@tender-lasso/core/edits'
import { deliveredRange, versionWord, type DeliveryInfo, type HandoffStatus } from '@tender-lasso/core/handoff'
import { addOutput, deleteOutput, duplicateOutput, shownOutput, writeOutputs } from '../../commands'
import { useHandoff } from '../../session'
import { useShot, type ShotInfo } from '../../store'
import { OutputDetails } from './OutputDetails'
import { framesWord, SHORT_FORMATS, SHORT_LAYOUTS } from './outputWords'
import { useRate } from './useRate'
import styles from './handoff.module.css'
import { counted } from '../../words/counted'

/** What is handed off: each output with how far it is behind, and the deliveries of the one that is chosen. */
export function OutputsFace() {
  const info = useShot((state) => state.info)
  return info && <Outputs info={info} />
}

function Outputs({ info }: { info: ShotInfo }) {
  const { document, saveState } = useShot(useShallow(({ document, saveState }) => ({ document, saveState })))
  const shown = useShot(shownOutput)
  const status = useHandoff(info.id, saveState === 'saved' ? document : null)
  const [checked, setChecked] = useState<ReadonlySet<string>>(new Set())
  const outputs = outputsInOrder(document)
  const marked = outputs.filter(({ id }) => checked.has(id))
  const wanted = marked.length > 0 ? marked : outputs
  const toggle = (id: string) => {
    const next = new Set(checked)
    if (!next.delete(id)) next.add(id)
    setChecked(next)
  }
  return (
    <div className={styles.face}>
      <div className={styles.outputs}>
        <div className={styles.bar}>
          <Button
            size="small"
            icon={<Plus size={13} />}
            title="Of the selected Part; of everything where none is selected"
            onClick={addOutput}
          >
            New output
          </Button>
          <Button size="small" disabled={wanted.length === 0} onClick={() => void writeOutputs(wanted)}>
            {marked.length > 0 ? `Write ${marked.length} of ${outputs.length}` : 'Write all'}
          </Button>
          {shown && (
            <span className={styles.acts}>
              <Tooltip title={`Copy ${shown.name}`}>
                <Button
                  size="small"
                  type="text"
                  aria-label={`Copy ${shown.name}`}
                  icon={<Copy size={13} />}
                  onClick={() => duplicateOutput(shown)}
                />
              </Tooltip>
              <Tooltip title={`Delete ${shown.name}; its deliveries stay`}>
                <Button
                  size="small"
                  type="text"
                  aria-label={`Delete ${shown.name}`}
                  icon={<Trash2 size={13} />}
                  onClick={() => deleteOutput(shown)}
                />
              </Tooltip>
            </span>
          )}
        </div>
        {outputs.length === 0 ? (
          <p className={styles.empty}>An output is what is handed off, as files of a kind. There is none yet.</p>
        ) : (
          <div className={styles.scroll}>
            <table className={styles.table} role="grid" aria-label="Outputs">
              <thead>
                <tr>
                  <th aria-label="Marked" />
                  <th>Output</th>
                  <th>Holds</th>
                  <th>As</th>
                  <th>Frames</th>
                  <th>State</th>
                </tr>
              </thead>
              <tbody>
                {outputs.map((output) => {
                  const held = wordsOfHeld(document, output)
                  const frames = deliveredRange(output, [info.firstFrame, info.lastFrame])
                  return (
                    <tr
                      key={output.id}
                      data-output={output.name}
                      aria-selected={output === shown}
                      className={output === shown ? styles.chosen : undefined}
                      tabIndex={0}
                      onClick={() => useShot.setState({ outputId: output.id })}
                      onKeyDown={({ key, target, currentTarget }) => {
                        if (key === 'Enter' && target === currentTarget) useShot.setState({ outputId: output.id })
                      }}
                    >
                      <td>
                        <Checkbox
                          aria-label={`Mark ${output.name}`}
                          checked={checked.has(output.id)}
                          onChange={() => toggle(output.id)}
                          onClick={(event) => event.stopPropagation()}
                        />
                      </td>
                      <td>{output.name}</td>
                      <td className={styles.quiet} title={held}>
                        {held}
                      </td>
                      <td className={styles.quiet}>
                        {SHORT_FORMATS[output.format]}, {SHORT_LAYOUTS[output.layout]}
                      </td>
                      <td className={styles.frames}>{frames ? framesWord(frames) : 'none'}</td>
                      <td>
                        <State output={output} status={status} />
                      </td>
                    </tr>
                  )
                })}
              </tbody>
            </table>
          </div>
        )}
      </div>
      <OutputDetails shotId={info.id} output={shown} deliveries={status?.deliveries ?? null} />
    </div>
  )
}

/** Never written, under way, up to date, or behind by what. */
function State({ output, status }: { output: Output; status: HandoffStatus | null }) {
  const document = useShot((state) => state.document)
  if (!status) return <span className={styles.quiet}>…</span>
  const own = status.deliveries.filter(({ outputId }) => outputId === output.id)
  const [newest] = own
  if (newest && (newest.state === 'running' || newest.state === 'queued')) return <UnderWay delivery={newest} />
  if (newest?.state === 'failed') {
    return (
      <span className={styles.bad} title={newest.message ?? undefined}>
        {versionWord(newest.version)} failed
      </span>
    )
  }
  const behind = status.outputs.find(({ outputId }) => outputId === output.id)?.behind
  if (!behind) return <span className={styles.quiet}>never written</span>
  const version = versionWord(Math.max(...own.filter(({ state }) => state === 'done').map((one) => one.version)))
  if (behind.edits === 0) return <span>{version}, up to date</span>
  const names = behind.partIds.map((id) => findObject(document, 'part', id)?.name ?? 'a deleted Part')
  const words = `${version}, ${counted(behind.edits, 'edit')} behind: ${names.length > 0 ? names.join(', ') : 'its settings'}`
  return (
    <span className={styles.doubtful} title={words}>
      {words}
    </span>
  )
}

function UnderWay({ delivery }: { delivery: DeliveryInfo }) {
  const { done, total, version } = delivery
  const rate = useRate(delivery.jobId, done, total)
  return (
    <span>
      {versionWord(version)}, {done} of {total}
      {rate && ` · ${rate.framesPerSecond.toFixed(1)} frames/s · ${rate.secondsLeft} s left`}
    </span>
  )
}
