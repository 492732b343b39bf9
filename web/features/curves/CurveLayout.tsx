import type { PointerEventHandler, ReactNode, RefObject } from 'react'
import { shotRange, useShot } from '../../store'
import { ChannelChoice } from './ChannelChoice'
import { PLOT_LEFT, PLOT_RIGHT } from './curvePlot'
import styles from './curves.module.css'

interface CurveLayoutProps<Channel extends { name: string }> {
  channels: readonly Channel[]
  chosen: Channel
  onChoose(channel: Channel): void
  canvas: RefObject<HTMLCanvasElement | null>
  /** What the plot shows and what can be dragged on it. */
  words: string
  down: PointerEventHandler<HTMLCanvasElement>
  move: PointerEventHandler<HTMLCanvasElement>
  up: PointerEventHandler<HTMLCanvasElement>
  /** Beside the plot. */
  children?: ReactNode
}

/** Channels to choose from, and the plot of the chosen one. */
export function CurveLayout<Channel extends { name: string }>(props: CurveLayoutProps<Channel>) {
  const { channels, chosen, onChoose, canvas, words, down, move, up, children } = props
  return (
    <div className={styles.face}>
      <ChannelChoice channels={channels} chosen={chosen} onChoose={onChoose} />
      <div className={styles.plot}>
        <canvas
          ref={canvas}
          data-testid="curves"
          aria-label={words}
          onPointerDown={down}
          onPointerMove={move}
          onPointerUp={up}
        />
        <MarkedStretch />
      </div>
      {children}
    </div>
  )
}

/** The stretch that is marked, over the plot. */
function MarkedStretch() {
  const range = useShot((state) => state.range)
  if (!range) return null
  const [first, last] = shotRange()
  const share = (frame: number) => (frame - first) / (last - first + 1)
  const room = `(100% - ${PLOT_LEFT + PLOT_RIGHT}px)`
  return (
    <div
      className={styles.marked}
      style={{
        left: `calc(${PLOT_LEFT}px + ${share(range[0])} * ${room})`,
        width: `calc(${share(range[1] + 1) - share(range[0])} * ${room})`,
      }}
    />
  )
}
