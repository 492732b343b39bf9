'use client'

import { useRef } from 'react'
import { GROUNDS, say, setView, useShot, type Ground } from '../../store'
import styles from './strips.module.css'

/** What a cut-out is laid over: grey, checker, a colour, or a picture, as a trial comp. */
export function GroundChoice() {
  const ground = useShot((state) => state.view.cutoutGround)
  const colour = useShot((state) => state.view.groundColour)
  const picture = useShot((state) => state.view.groundPicture)
  const file = useRef<HTMLInputElement>(null)
  const next = GROUNDS[(GROUNDS.indexOf(ground) + 1) % GROUNDS.length]!
  return (
    <>
      <button
        type="button"
        className={styles.choice}
        title={`What the cut-out lies over; click for ${WORDS[next]}`}
        onClick={() => setView({ cutoutGround: next })}
      >
        over {WORDS[ground]}
      </button>
      {ground === 'colour' && (
        <input
          type="color"
          className={styles.colour}
          aria-label="Colour of the ground"
          value={colour}
          onChange={({ target }) => setView({ groundColour: target.value })}
        />
      )}
      {ground === 'picture' && (
        <>
          <button
            type="button"
            className={styles.choice}
            title="A picture as large as the plate, stretched to it; it stays in this browser"
            onClick={() => file.current?.click()}
          >
            {picture?.name ?? 'Choose a picture'}
          </button>
          <input
            ref={file}
            type="file"
            hidden
            accept="image/*"
            aria-label="Picture for the ground"
            onChange={({ target }) => {
              const [chosen] = target.files ?? []
              if (chosen) void takePicture(chosen)
              target.value = ''
            }}
          />
        </>
      )}
    </>
  )
}

const WORDS: Record<Ground, string> = { grey: 'grey', checker: 'checker', colour: 'a colour', picture: 'a picture' }

async function takePicture(file: File) {
  try {
    const bitmap = await createImageBitmap(file, { premultiplyAlpha: 'none' })
    useShot.getState().view.groundPicture?.bitmap.close()
    setView({ groundPicture: { name: file.name, bitmap } })
  } catch {
    say('doubtful', `${file.name} is no picture that this browser can read: a PNG, JPEG, WebP or AVIF is wanted`)
  }
}
