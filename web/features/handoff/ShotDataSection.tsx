'use client'

import { useState } from 'react'
import { Button } from 'antd'
import { findObject } from '@tender-lasso/core/document'
import {
  copyShotData,
  copySvg,
  importLottie,
  pasteShotData,
  saveOutlines,
  saveShotData,
  takeShotData,
} from '../../commands'
import { useShot } from '../../store'
import { ReadTextButton } from '../properties/ReadTextButton'
import rows from '../properties/properties.module.css'

/** The shot, or the selected Part, as JSON: everything that can be edited, to be read into another shot or on another machine. */
export function ShotDataSection() {
  const part = useShot(({ document, selection }) =>
    selection.partId ? findObject(document, 'part', selection.partId) : undefined,
  )
  const [isWriting, setIsWriting] = useState(false)
  const write = async (act: () => Promise<void>) => {
    setIsWriting(true)
    await act()
    setIsWriting(false)
  }
  return (
    <>
      <p className={rows.hint}>
        {part ? `${part.name} with what carries and moves it` : 'The whole shot'}: shapes, keys, tracks and settings,
        exactly as they are stored.
      </p>
      <div className={rows.buttons}>
        <Button size="small" onClick={saveShotData}>
          Save shot data
        </Button>
        <Button size="small" onClick={() => void copyShotData()}>
          Copy
        </Button>
        <ReadTextButton
          words="Read shot data"
          title="Its Parts are added to this shot, as one edit"
          label="Shot data file"
          accept=".json,application/json"
          onText={takeShotData}
        />
        <Button size="small" onClick={() => void pasteShotData()}>
          Paste
        </Button>
      </div>
      <p className={rows.hint}>
        Outlines of {part ? part.name : 'all that is seen'}: paths without motion blur, softness in JSON alone.
      </p>
      <div className={rows.buttons}>
        <Button size="small" loading={isWriting} onClick={() => void write(() => saveOutlines('svg', 'frame'))}>
          SVG of this frame
        </Button>
        <Button size="small" loading={isWriting} onClick={() => void write(() => saveOutlines('svg', 'shot'))}>
          SVG, animated
        </Button>
        <Button size="small" loading={isWriting} onClick={() => void write(copySvg)}>
          Copy SVG
        </Button>
        <Button
          size="small"
          loading={isWriting}
          title="Keys where the way between them is straight, frames elsewhere; Parts with holes as masks"
          onClick={() => void write(() => saveOutlines('lottie', 'shot'))}
        >
          Lottie
        </Button>
        <Button
          size="small"
          loading={isWriting}
          title="Every frame worked out, with softness: for programs that know no keys, tracks or Movers"
          onClick={() => void write(() => saveOutlines('json', 'shot'))}
        >
          JSON, each frame
        </Button>
        <ReadTextButton
          words="Read Lottie"
          title="Its layers become Parts of a new Subject, as one edit"
          label="Lottie file"
          accept=".json,application/json"
          onText={importLottie}
        />
      </div>
    </>
  )
}
