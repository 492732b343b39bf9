'use client'

import { numberChanged, type NumberChange } from '@tender-lasso/core/edits'
import { UNITS, type ChannelOf } from '@tender-lasso/core/document'
import { channelValuesAt } from '@tender-lasso/core/evaluation'
import { editReaching, keyingNow, keyingOnTheWay } from '../../commands'
import { preview, useShot } from '../../store'
import { edit } from '../../session'
import { KeyKnot } from './KeyKnot'
import { NumberField } from './NumberField'
import { Row } from './Row'

interface ChannelRowProps {
  label: string
  /** What it is called where the label alone could be another's. */
  name?: string
  help: string
  /** The same channel of all that is selected; those of the first show. */
  channels: readonly ChannelOf[]
  /** Shown numbers; narrower than what may be stored. */
  min: number
  max: number
  step: number
  decimals?: number
  /** More that has to change with it. */
  along?(change: NumberChange, how: ReturnType<typeof keyingNow>): ReturnType<typeof numberChanged>
  /** More that is keyed with it. */
  keyedAlong?: readonly ChannelOf[]
}

/** A setting of everything selected: typed, dragged or changed by as much for all at once, keyed and seen to be. */
export function ChannelRow(props: ChannelRowProps) {
  const { label, name = label, help, channels, min, max, step, decimals, along, keyedAlong = [] } = props
  const frame = useShot((state) => state.frame)
  const { unit, relative } = channels[0]!.definition.numbers[0]!
  const { sign, shown } = UNITS[unit]
  const values = channels.map((channel) => shown(channelValuesAt(channel, frame)![0]!))
  const [least, largest] = [Math.min(...values), Math.max(...values)]
  const patchesOf = (change: NumberChange, how: ReturnType<typeof keyingNow>) => [
    ...channels.flatMap((channel) => numberChanged(channel, 0, change, frame, how)),
    ...(along?.(change, how) ?? []),
  ]
  const isKeyed = channels.some(({ keys }) => keys.length > 0)
  const commit = (value: number, change: NumberChange) => {
    const words = `${name.toLowerCase()} ${wordsOf(channels.length > 1 ? change : { kind: 'set', by: value }, sign)}`
    const patches = patchesOf(change, keyingNow())
    if (isKeyed) editReaching(words, patches)
    else edit(words, patches)
  }
  return (
    <Row label={label} help={help} knot={<KeyKnot label={name} channels={[...channels, ...keyedAlong]} />}>
      <NumberField
        label={name}
        value={values[0]!}
        spread={least === largest ? undefined : [least, largest]}
        unit={sign}
        min={min}
        max={max}
        step={step}
        decimals={decimals}
        relative={relative}
        onPreview={(_value, change) => preview(patchesOf(change, keyingOnTheWay()))}
        onCommit={commit}
      />
    </Row>
  )
}

const rounded = (value: number) => Number(value.toFixed(3))

function wordsOf({ kind, by }: NumberChange, sign: string): string {
  if (kind === 'multiply') return `× ${rounded(by)}`
  const number = `${rounded(by)}${sign && ` ${sign}`}`
  return kind === 'add' && by >= 0 ? `+${number}` : number
}
