import styles from './curves.module.css'

interface ChannelChoiceProps<Channel extends { name: string }> {
  channels: readonly Channel[]
  chosen: Channel
  onChoose(channel: Channel): void
}

/** Which channel the curve is of. */
export function ChannelChoice<Channel extends { name: string }>(props: ChannelChoiceProps<Channel>) {
  const { channels, chosen, onChoose } = props
  return (
    <div className={styles.channels} role="radiogroup" aria-label="Channel">
      {channels.map((one) => (
        <button
          key={one.name}
          type="button"
          role="radio"
          aria-checked={one === chosen}
          className={one === chosen ? styles.channelOn : styles.channel}
          onClick={() => onChoose(one)}
        >
          {one.name}
        </button>
      ))}
    </div>
  )
}
