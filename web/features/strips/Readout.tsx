import { useEffect, useMemo, useRef, useState } from 'react'
import { Tooltip } from 'antd'
import { AnalysisTiles } from '../../media'
import { usePointerPlace, useShot } from '../../store'
import styles from './strips.module.css'

/** Those of three channels under the pointer, on the last few frames and places. */
const MOST_TILES = 150
/** Frames that are only scrubbed past are not fetched. */
const FRAME_REST_MS = 150
const CHANNELS = ['red', 'green', 'blue'] as const

/** Plate position under the pointer and the values there, from the lossless frame: not what the eye is shown. */
export function Readout() {
  const place = usePointerPlace((state) => state.place)
  const [values, setValues] = useState<number[] | null>(null)
  const info = useShot((state) => state.info)
  const frame = useShot((state) => state.frame)
  const isPlaying = useShot((state) => state.isPlaying)
  const tiles = useMemo(() => info && new AnalysisTiles(info.id, info.width, info.height, MOST_TILES), [info])

  const [left, top] = place ? [Math.floor(place[0]), Math.floor(place[1])] : [-1, -1]
  const isInside = info !== null && left >= 0 && top >= 0 && left < info.width && top < info.height
  const readFrame = useRef(frame)
  useEffect(() => {
    if (!tiles || !isInside || isPlaying) return setValues(null)
    let isOld = false
    const read = () => {
      readFrame.current = frame
      const box = { left, top, right: left + 1, bottom: top + 1 }
      Promise.all(CHANNELS.map((channel) => tiles.image(frame, box, channel))).then(
        (pixels) => isOld || setValues(pixels.map(({ data }) => data[0]!)),
        () => isOld || setValues(null),
      )
    }
    const isOtherFrame = frame !== readFrame.current
    if (isOtherFrame) setValues(null)
    const timer = setTimeout(read, isOtherFrame ? FRAME_REST_MS : 0)
    return () => {
      isOld = true
      clearTimeout(timer)
    }
  }, [tiles, frame, left, top, isInside, isPlaying])

  return (
    <Tooltip
      title={`Place in plate pixels; red, green, blue as the plate encodes them (${info?.colourEncoding ?? ''}), 0 to 1`}
      mouseEnterDelay={0.6}
    >
      <span className={styles.readout} role="note" aria-label="Place and values under the pointer">
        {place && isInside && `${place[0].toFixed(1)}, ${place[1].toFixed(1)}`}
        {values && isInside && `   ${values.map((value) => value.toFixed(4)).join(' ')}`}
      </span>
    </Tooltip>
  )
}
