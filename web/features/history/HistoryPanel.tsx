'use client'

import { useEffect, useState } from 'react'
import { Button, Empty, Input, Segmented } from 'antd'
import { X } from 'lucide-react'
import { allOf, type HistoryEntry, type Version } from '@tender-lasso/core/document'
import { objectsDeleted } from '@tender-lasso/core/edits'
import { wordsOf, edit } from '../../session'
import { VirtualRows } from '../lists/VirtualRows'
import { compareWith, copyPartFrom, goBackTo, historyBefore, keepVersion } from '../../commands'
import { say, useShot } from '../../store'
import styles from './history.module.css'

const PAGE = 100
const time = new Intl.DateTimeFormat(undefined, {
  hour: '2-digit',
  minute: '2-digit',
  second: '2-digit',
  hourCycle: 'h23',
})
const day = new Intl.DateTimeFormat(undefined, { weekday: 'short', day: 'numeric', month: 'short' })

/** Every edit of the shot and the versions that were kept, over the panels on the right. */
export function HistoryPanel() {
  const isOpen = useShot((state) => state.historyOpen)
  const [face, setFace] = useState<'Edits' | 'Versions'>('Edits')
  if (!isOpen) return null
  return (
    <section className={styles.panel} aria-label="History">
      <header className={styles.header}>
        <span>History</span>
        <Segmented size="small" value={face} options={['Edits', 'Versions']} onChange={setFace} />
        <Button
          size="small"
          type="text"
          aria-label="Close the history"
          icon={<X size={14} />}
          onClick={() => useShot.setState({ historyOpen: false })}
        />
      </header>
      {face === 'Edits' ? <Edits /> : <Versions />}
    </section>
  )
}

function Edits() {
  const shotId = useShot((state) => state.info?.id)
  const isSaved = useShot((state) => state.saveState === 'saved')
  const document = useShot((state) => state.document)
  const compared = useShot((state) => state.view.compared?.name)
  /** Null before the first answer. */
  const [entries, setEntries] = useState<HistoryEntry[] | null>(null)
  const [isAll, setIsAll] = useState(false)
  // What is stored anew stands at the top at once.
  useEffect(() => {
    if (!shotId || !isSaved) return
    let isOver = false
    historyBefore(shotId, null).then((newest) => {
      // A later question has been asked, and its answer holds more.
      if (isOver) return
      const oldest = newest.at(-1)?.sequence ?? 0
      setEntries((known) => [...newest, ...(known ?? []).filter((entry) => entry.sequence < oldest)])
      if (newest.length < PAGE) setIsAll(true)
    }, sayUnread)
    return () => void (isOver = true)
  }, [shotId, isSaved, document])

  if (!entries) return <p className={styles.empty}>Looking …</p>
  if (entries.length === 0) return <Empty className={styles.empty} description="Nothing has been edited yet" />
  const more = async () => {
    if (!shotId) return
    try {
      const older = await historyBefore(shotId, entries.at(-1)!.sequence)
      // Asked for twice, they come twice.
      setEntries((known) => known && [...known, ...older.filter(({ sequence }) => sequence < known.at(-1)!.sequence)])
      if (older.length < PAGE) setIsAll(true)
    } catch (error) {
      sayUnread(error)
    }
  }
  return (
    <VirtualRows
      className={styles.list}
      role="list"
      aria-label="Edits, newest first"
      count={entries.length + (isAll ? 0 : 1)}
      rowHeight={ROW_HEIGHT}
      keyOf={(index) => entries[index]?.batchId ?? 'older'}
    >
      {(index) => {
        const entry = entries[index]
        if (entry) return <Edit entry={entry} isNow={index === 0} isCompared={compared === nameOf(entry)} />
        return (
          <div role="listitem">
            <Button size="small" type="text" onClick={() => void more()}>
              Older edits
            </Button>
          </div>
        )
      }}
    </VirtualRows>
  )
}

const sayUnread = (error: unknown) => say('bad', `The history cannot be read: ${wordsOf(error)}`)

/** CSS pixels; as in history.module.css. */
const ROW_HEIGHT = 26

function Edit({ entry, isNow, isCompared }: { entry: HistoryEntry; isNow: boolean; isCompared: boolean }) {
  return (
    <div role="listitem" className={isNow ? styles.now : styles.entry}>
      <time dateTime={entry.at} title={day.format(new Date(entry.at))}>
        {time.format(new Date(entry.at))}
      </time>
      <span className={styles.words} title={`${entry.label} (${entry.author})`}>
        {entry.label}
      </span>
      <span className={styles.acts}>
        {!isNow && (
          <Button size="small" onClick={() => void goBackTo(entry.sequence, entry.label)}>
            Go there
          </Button>
        )}
        <Button
          size="small"
          type={isCompared ? 'primary' : 'default'}
          onClick={() => void compareWith(entry.sequence, nameOf(entry))}
        >
          Compare
        </Button>
      </span>
    </div>
  )
}

const nameOf = (entry: HistoryEntry) => `after edit ${entry.sequence}`

function Versions() {
  const document = useShot((state) => state.document)
  const compared = useShot((state) => state.view.compared?.name)
  const [name, setName] = useState('')
  const versions = allOf(document, 'version').sort((a, b) => (a.at < b.at ? 1 : -1))
  const proposed = `Version ${versions.length + 1}`
  return (
    <>
      <form
        className={styles.keep}
        onSubmit={(event) => {
          event.preventDefault()
          keepVersion(name.trim() || proposed)
          setName('')
        }}
      >
        <Input
          size="small"
          placeholder={proposed}
          aria-label="Name of the new version"
          value={name}
          onChange={({ target }) => setName(target.value)}
        />
        <Button size="small" type="primary" htmlType="submit">
          Keep this version
        </Button>
      </form>
      {versions.length === 0 ? (
        <Empty
          className={styles.empty}
          description="A version keeps the shot as it is now, to compare with or come back to"
        />
      ) : (
        <ol className={styles.list} aria-label="Versions, newest first">
          {versions.map((version) => (
            <VersionRow key={version.id} version={version} isCompared={compared === version.name} />
          ))}
        </ol>
      )}
    </>
  )
}

function VersionRow({ version, isCompared }: { version: Version; isCompared: boolean }) {
  const at = new Date(version.at)
  return (
    <li className={styles.version}>
      <span className={styles.words}>{version.name}</span>
      <time dateTime={version.at}>
        {day.format(at)} {time.format(at)}, {version.author}
      </time>
      <span className={styles.versionActs}>
        <Button
          size="small"
          type={isCompared ? 'primary' : 'default'}
          onClick={() => void compareWith(version.sequence, version.name)}
        >
          Compare
        </Button>
        <Button size="small" onClick={() => void goBackTo(version.sequence, version.name)}>
          Restore
        </Button>
        <Button
          size="small"
          title="The selected Part as it was then, as a copy"
          onClick={() => void copyPartFrom(version)}
        >
          Copy Part
        </Button>
        <Button
          size="small"
          aria-label={`Forget the version ${version.name}`}
          onClick={() =>
            edit(`forget the version ${version.name}`, objectsDeleted(useShot.getState().document, [version.id]))
          }
        >
          ×
        </Button>
      </span>
    </li>
  )
}
