'use client'

import { useEffect, useRef, useState } from 'react'
import { findObject, type Track } from '@tender-lasso/core/document'
import { followedOn } from '@tender-lasso/core/evaluation'
import { patternFor } from '@tender-lasso/core/tracks'
import { wordsOf } from '../../session'
import { goTo, mainTrackId, say, shotRange, useShot } from '../../store'
import { paintPatch, patchBox, patchOf } from './patches'
import styles from './track.module.css'

const HEIGHT = 96

interface Patch {
  frame: number
  data: Float32Array
  /** Mean difference to the reference's patch after gain and bias, of 255. */
  difference: number
}

/** The tracked patch of every frame, brought back to the reference and laid side by side; the worst are marked. */
export function ProofStrip() {
  const trackId = useShot((state) => mainTrackId(state.selection))
  const track = useShot((state) => (trackId ? findObject(state.document, 'track', trackId) : undefined))
  if (!track) return <p className={styles.empty}>Select a track: its patch on every frame is shown here.</p>
  return <Strip key={track.id} track={track} />
}

function Strip({ track }: { track: Track }) {
  const frame = useShot((state) => state.frame)
  /** Null before there is one. */
  const [patches, setPatches] = useState<readonly Patch[] | null>(null)
  const box = patchBox(track, track.referenceFrame)
  const width = Math.max(12, Math.min(260, Math.round((HEIGHT * (box.right - box.left)) / (box.bottom - box.top))))
  const strip = useRef<HTMLDivElement>(null)
  useEffect(() => {
    let isCurrent = true
    const [first, last] = shotRange()
    const all = Array.from({ length: last - first + 1 }, (_, i) => first + i)
    const frames = all.filter((at) => followedOn(track, at) !== null)
    // A pattern given later is the picture that its own frames are held against.
    const references = new Map<number, Float32Array>()
    const lay = async () => {
      const made: Patch[] = []
      for (const f of frames) {
        const pattern = patternFor(track, f).frame
        const bounds = patchBox(track, f)
        const reference = references.get(pattern) ?? (await patchOf(track, pattern, bounds, width, HEIGHT))
        const data = await patchOf(track, f, bounds, width, HEIGHT)
        if (!isCurrent) return
        if (!reference || !data) continue
        references.set(pattern, reference)
        made.push({ frame: f, data, difference: difference(reference, data) })
        if (made.length % 8 === 0) setPatches([...made])
      }
      setPatches(made)
    }
    lay().catch((error: unknown) => {
      if (!isCurrent) return
      say('bad', `The strip could not be laid: ${wordsOf(error)}`)
      setPatches((laid) => laid ?? [])
    })
    return () => {
      isCurrent = false
    }
  }, [track, width])
  useEffect(() => {
    strip.current?.querySelector('[aria-current="true"]')?.scrollIntoView({ block: 'nearest', inline: 'center' })
  }, [frame, patches?.length])
  if (!patches) return <p className={styles.empty}>Laying the strip</p>
  if (patches.length === 0)
    return <p className={styles.empty}>{track.blocks.length ? 'Nothing of the strip is there' : 'Not tracked yet'}</p>
  const middle = patches.map((p) => p.difference).sort((a, b) => a - b)[patches.length >> 1]!
  return (
    <div ref={strip} className={styles.strip} aria-label="Proof strip">
      {patches.map((patch) => (
        <PatchView
          key={patch.frame}
          patch={patch}
          width={width}
          isHere={patch.frame === frame}
          isWorst={patch.difference > 2 * middle + 1}
        />
      ))}
    </div>
  )
}

function PatchView({
  patch,
  width,
  isHere,
  isWorst,
}: {
  patch: Patch
  width: number
  isHere: boolean
  isWorst: boolean
}) {
  const canvas = useRef<HTMLCanvasElement>(null)
  const isMarked = useShot(({ range }) => range !== null && patch.frame >= range[0] && patch.frame <= range[1])
  useEffect(() => paintPatch(canvas.current!, patch.data, width, HEIGHT), [patch, width])
  return (
    <button
      type="button"
      className={isHere ? styles.patchHere : isMarked ? styles.patchMarked : styles.patch}
      data-frame={patch.frame}
      aria-current={isHere}
      title={`Frame ${patch.frame}: differs by ${patch.difference.toFixed(1)} of 255`}
      onClick={() => goTo(patch.frame)}
    >
      <canvas ref={canvas} style={{ aspectRatio: `${width} / ${HEIGHT}` }} />
      <span>{isWorst ? <em>{patch.frame} differs</em> : patch.frame}</span>
    </button>
  )
}

/** Mean difference of two patches once exposure is the same, of 255. */
function difference(reference: Float32Array, patch: Float32Array): number {
  let [n, st, si, stt, sti] = [0, 0, 0, 0, 0]
  for (let k = 0; k < patch.length; k++) {
    const [t, i] = [reference[k]!, patch[k]!]
    if (Number.isNaN(t) || Number.isNaN(i)) continue
    n++
    st += t
    si += i
    stt += t * t
    sti += t * i
  }
  const spread = stt - (st * st) / n
  const gain = spread > 0 ? (sti - (st * si) / n) / spread : 1
  const bias = (si - gain * st) / n
  let sum = 0
  for (let k = 0; k < patch.length; k++) {
    const r = patch[k]! - gain * reference[k]! - bias
    if (!Number.isNaN(r)) sum += Math.abs(r)
  }
  return (255 * sum) / Math.max(1, n)
}
