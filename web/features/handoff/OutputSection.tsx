'use client'

import { useShallow } from 'zustand/react/shallow'
import { useState } from 'react'
import { Button, Input, Select, Switch } from 'antd'
import {
  allOf,
  findObject,
  isExr,
  isMovie,
  patternProblem,
  PATTERN_WORDS,
  type Output,
} from '@tender-lasso/core/document'
import { partsByDepth, shownShapesOf } from '@tender-lasso/core/evaluation'
import { deliveredRange, mattesOf, picturesOf, type DeliveredMatte } from '@tender-lasso/core/handoff'
import { addOutput, changeOutput, shownOutput, writeOutputs } from '../../commands'
import { shotRange, useShot } from '../../store'
import { NameField } from '../properties/NameField'
import { NumberField } from '../properties/NumberField'
import { Row } from '../properties/Row'
import rows from '../properties/properties.module.css'
import { NotesRow } from './NotesRow'
import { COMPRESSION_WORDS, FORMAT_WORDS, LAYOUT_WORDS, PRIMARIES_WORDS, SCALE_WORDS } from './outputWords'
import styles from './handoff.module.css'
import { counted } from '../../words/counted'

/** Settings of the output that is shown in the lower panel, and the button that writes it. */
export function OutputSection() {
  const output = useShot(shownOutput)
  if (!output) {
    return (
      <>
        <p className={rows.hint}>An output is what is handed off, as files of a kind. There is none yet.</p>
        <Button size="small" onClick={addOutput}>
          New output
        </Button>
      </>
    )
  }
  return <Settings key={output.id} output={output} />
}

function Settings({ output }: { output: Output }) {
  const { info, document } = useShot(useShallow(({ info, document }) => ({ info, document })))
  const [isSending, setIsSending] = useState(false)
  if (!info) return null
  const mattes = mattesOf(document, output)
  const frames = deliveredRange(output, [info.firstFrame, info.lastFrame])
  const change = (next: Partial<Output>, words: string) => changeOutput(output, next, words)
  const [first, last] = output.range ?? [info.firstFrame, info.lastFrame]
  const write = async () => {
    setIsSending(true)
    await writeOutputs([output])
    setIsSending(false)
  }
  const isIds = output.layout === 'object-id'
  return (
    <>
      <Button
        type="primary"
        size="small"
        loading={isSending}
        disabled={mattes.length === 0 || !frames}
        onClick={() => void write()}
      >
        Write {counted(mattes.length, 'matte')}
      </Button>
      {mattes.length === 0 && (
        <p className={rows.hint}>There is no matte to hand off yet: draw a shape, or choose other Parts.</p>
      )}
      {!frames && <p className={rows.bad}>The shot has none of these frames.</p>}
      <Row label="Name">
        <NameField
          label="Name of the output"
          value={output.name}
          onCommit={(name) => change({ name }, `called ${name}`)}
        />
      </Row>
      <HeldRows output={output} />
      <ChoiceRow
        label="Layout"
        words={LAYOUT_WORDS}
        value={output.layout}
        onChange={(layout) => change({ layout }, LAYOUT_WORDS[layout].toLowerCase())}
      />
      <ChoiceRow
        label="Format"
        words={FORMAT_WORDS}
        value={output.format}
        onChange={(format) => change({ format }, `as ${FORMAT_WORDS[format]}`)}
      />
      {isExr(output.format) && (
        <>
          <ChoiceRow
            label="Compression"
            help="How an EXR is packed, without loss"
            words={COMPRESSION_WORDS}
            value={output.compression}
            onChange={(compression) => change({ compression }, COMPRESSION_WORDS[compression])}
          />
          <ChoiceRow
            label="Primaries"
            help="What the header says of red, green and blue; coverage itself has no colour and is the same"
            words={PRIMARIES_WORDS}
            value={output.primaries}
            onChange={(primaries) => change({ primaries }, PRIMARIES_WORDS[primaries])}
          />
          {!isIds && (
            <Row label="Data window" help="Only the pixels where there is something, within the whole frame">
              <Switch
                size="small"
                aria-label="Data window"
                checked={output.window === 'data'}
                onChange={(isData) =>
                  change({ window: isData ? 'data' : 'full' }, isData ? 'a data window' : 'the full frame')
                }
              />
            </Row>
          )}
        </>
      )}
      <Row label="Size">
        <Select<Output['scale']>
          size="small"
          aria-label="Size"
          value={output.scale}
          options={([1, 0.5, 0.25] as const).map((scale) => ({
            value: scale,
            label: `${SCALE_WORDS[scale]}, ${Math.ceil(info.width * scale)} × ${Math.ceil(info.height * scale)}`,
          }))}
          onChange={(scale) => change({ scale }, `${SCALE_WORDS[scale].toLowerCase()} size`)}
        />
      </Row>
      <Row label="Range">
        <span className={styles.range}>
          <NumberField
            label="First frame"
            value={first}
            min={info.firstFrame}
            max={last}
            step={1}
            onCommit={whole((frame) => change({ range: [frame, last] }, `from ${frame}`))}
          />
          <NumberField
            label="Last frame"
            value={last}
            min={first}
            max={info.lastFrame}
            step={1}
            onCommit={whole((frame) => change({ range: [first, frame] }, `to ${frame}`))}
          />
        </span>
      </Row>
      <Row label="Handles" help="Frames more to both sides of the range, as far as the shot has any">
        <NumberField
          label="Handles"
          value={output.handles}
          min={0}
          max={1000}
          step={1}
          onCommit={whole((handles) => change({ handles }, `handles of ${handles}`))}
        />
      </Row>
      <Row
        label="Holdouts"
        help={
          isIds
            ? 'An id says what is seen, so what stands in front always cuts'
            : 'Cut what stands in front out of each matte'
        }
      >
        <Switch
          size="small"
          aria-label="Holdouts"
          disabled={isIds}
          checked={isIds || output.withHoldouts}
          onChange={(withHoldouts) => change({ withHoldouts }, withHoldouts ? 'with holdouts' : 'without holdouts')}
        />
      </Row>
      <KeptRow output={output} field="motionBlur" label="Motion blur" what="motion blur" />
      <KeptRow
        output={output}
        field="feather"
        label="Feather"
        what="feather"
        help="Off: edges as hard as coverage is, for who softens them downstream"
      />
      <KeptRow output={output} field="focus" label="Focus blur" what="focus blur" />
      <PatternRows output={output} mattes={mattes} />
      <NotesRow key={output.id} output={output} />
    </>
  )
}

/** A number that is typed may be none that counts frames. */
const whole = (commit: (value: number) => void) => (value: number) => commit(Math.round(value))

interface ChoiceRowProps<Value extends string> {
  label: string
  help?: string
  words: Record<Value, string>
  value: Value
  onChange(value: Value): void
}

/** One of several, each in words. */
function ChoiceRow<Value extends string>({ label, help, words, value, onChange }: ChoiceRowProps<Value>) {
  const values = Object.keys(words) as Value[]
  return (
    <Row label={label} help={help}>
      <Select<Value>
        size="small"
        aria-label={label}
        value={value}
        options={values.map((one) => ({ value: one, label: words[one] }))}
        onChange={onChange}
      />
    </Row>
  )
}

interface KeptRowProps {
  output: Output
  field: 'motionBlur' | 'feather' | 'focus'
  label: string
  what: string
  help?: string
}

/** Whether the mattes of an output have something that the shot has. */
function KeptRow({ output, field, label, what, help }: KeptRowProps) {
  return (
    <Row label={label} help={help}>
      <Switch
        size="small"
        aria-label={field === 'motionBlur' ? label : `${label} of the output`}
        checked={output[field]}
        onChange={(isKept) => changeOutput(output, { [field]: isKept }, `${isKept ? 'with' : 'without'} ${what}`)}
      />
    </Row>
  )
}

/** Everything, one Subject, or some Parts. */
function HeldRows({ output }: { output: Output }) {
  const document = useShot((state) => state.document)
  const { holds } = output
  const subjects = allOf(document, 'subject').sort((a, b) => a.order - b.order)
  const parts = partsByDepth(document, shotRange()[0]).filter((part) => shownShapesOf(document, part).shapes.length > 0)
  const value = holds.what === 'subject' ? holds.subjectId : holds.what
  const hold = (what: string) => {
    if (what === 'everything') changeOutput(output, { holds: { what } }, 'everything')
    else if (what === 'parts')
      changeOutput(output, { holds: { what, partIds: mattesOf(document, output).map(({ partId }) => partId) } }, 'some Parts') // prettier-ignore
    else
      changeOutput(
        output,
        { holds: { what: 'subject', subjectId: what } },
        findObject(document, 'subject', what)?.name ?? 'a Subject',
      )
  }
  return (
    <>
      <Row label="Holds">
        <Select
          size="small"
          aria-label="What the output holds"
          value={value}
          options={[
            { value: 'everything', label: 'Everything' },
            { value: 'parts', label: 'Some Parts' },
            ...subjects.map(({ id, name }) => ({ value: id, label: `Subject ${name}` })),
          ]}
          onChange={hold}
        />
      </Row>
      {holds.what === 'parts' && (
        <Row label="Parts">
          <Select
            mode="multiple"
            size="small"
            aria-label="Parts to hand off"
            maxTagCount={2}
            value={holds.partIds.filter((id) => parts.some((part) => part.id === id))}
            options={parts.map((part) => ({
              value: part.id,
              label: `${findObject(document, 'subject', part.subjectId)?.name ?? ''} ${part.name}`,
            }))}
            onChange={(partIds) =>
              changeOutput(output, { holds: { what: 'parts', partIds } }, counted(partIds.length, 'Part'))
            }
          />
        </Row>
      )}
    </>
  )
}

/** How files are called, and what that makes of the first one. */
function PatternRows({ output, mattes }: { output: Output; mattes: readonly DeliveredMatte[] }) {
  const info = useShot((state) => state.info)
  const [typed, setTyped] = useState<string | null>(null)
  const pattern = typed ?? output.pattern
  const problem = patternProblem(pattern, output)
  const commit = () => {
    if (typed !== null && typed !== output.pattern && !problem) changeOutput(output, { pattern: typed }, 'name pattern')
    setTyped(null)
  }
  const [example] = picturesOf({ ...output, pattern }, mattes, { shot: info?.name ?? 'shot', version: 1, frame: output.range?.[0] ?? info?.firstFrame ?? 1 }) // prettier-ignore
  return (
    <>
      <Row
        label="Name pattern"
        help={`Words in braces are filled in: ${PATTERN_WORDS.map((word) => `{${word}}`).join(' ')}. A / makes a folder`}
      >
        <Input
          size="small"
          aria-label="Name pattern"
          maxLength={200}
          status={problem ? 'error' : undefined}
          value={pattern}
          onChange={({ target }) => setTyped(target.value)}
          onBlur={commit}
          onPressEnter={({ currentTarget }) => currentTarget.blur()}
          onKeyDown={({ key }) => key === 'Escape' && setTyped(null)}
        />
      </Row>
      {!isMovie(output.format) && (
        <Row label="Digits" help="Of a frame number, at least">
          <NumberField
            label="Digits of a frame number"
            value={output.padding}
            min={1}
            max={8}
            step={1}
            onCommit={whole((padding) => changeOutput(output, { padding }, `${padding} digits`))}
          />
        </Row>
      )}
      <p className={problem ? rows.bad : styles.example}>{problem ?? example?.path ?? ''}</p>
    </>
  )
}
