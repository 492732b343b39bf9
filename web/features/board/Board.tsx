'use client'

import { useCallback, useEffect, useRef, useState, type DragEvent } from 'react'
import { Alert, App, Button, Empty, Input, Modal, Spin } from 'antd'
import { FolderPlus } from 'lucide-react'
import { api, wordsOf, useJobs } from '../../session'
import type { ProjectInfo } from '../../store'
import { droppedFiles } from './droppedFiles'
import { OpenPlateDialog } from './OpenPlateDialog'
import { HealthNotice } from '../health/HealthNotice'
import { ShotCard } from './ShotCard'
import { StorageMeter } from './StorageMeter'
import styles from './board.module.css'
import { counted } from '../../words/counted'

/** The home page: projects and their shots as a wall of thumbnails. */
export function Board() {
  const { message } = App.useApp()
  const [projects, setProjects] = useState<ProjectInfo[] | null>(null)
  const [failure, setFailure] = useState<string | null>(null)
  const [opening, setOpening] = useState<{ projectId: string; files: File[] } | null>(null)
  const [isNaming, setIsNaming] = useState(false)
  const jobs = useJobs().filter((job) => job.kind === 'ingest')
  const jobStates = jobs.map((job) => `${job.id}${job.state}`).join()

  const load = useCallback(() => {
    api<ProjectInfo[]>('/api/board').then(
      (found) => {
        setProjects(found)
        setFailure(null)
      },
      (error: unknown) => setFailure(wordsOf(error)),
    )
  }, [])
  useEffect(load, [load, jobStates])

  const addProject = async (name: string) => {
    try {
      await api('/api/projects', { body: JSON.stringify({ name }) })
      setIsNaming(false)
      load()
    } catch (error) {
      void message.error(wordsOf(error))
    }
  }

  return (
    <main className={styles.board}>
      <header className={styles.header}>
        <h1>Tender Lasso</h1>
        <span className={styles.quiet}>Shot board</span>
        <span className={styles.gap} />
        <HealthNotice />
        <StorageMeter changes={jobStates} />
        <Button icon={<FolderPlus size={14} />} onClick={() => setIsNaming(true)}>
          New project
        </Button>
      </header>
      {failure && (
        <Alert
          type="error"
          showIcon
          title={failure}
          action={
            <Button size="small" onClick={load}>
              Try again
            </Button>
          }
        />
      )}
      {projects === null && !failure && (
        <div className={styles.loading}>
          <Spin />
        </div>
      )}
      {projects?.length === 0 && <Empty description="No project yet. Make one, then drop a plate into it." />}
      {projects?.map((project) => (
        <ProjectRow
          key={project.id}
          project={project}
          jobs={jobs}
          onOpen={(files) => setOpening({ projectId: project.id, files })}
          onChanged={load}
        />
      ))}
      {opening && (
        <OpenPlateDialog
          {...opening}
          onClose={(isMade) => {
            setOpening(null)
            if (isMade) load()
          }}
        />
      )}
      <NameDialog isOpen={isNaming} onClose={() => setIsNaming(false)} onName={(name) => void addProject(name)} />
    </main>
  )
}

function ProjectRow({
  project,
  jobs,
  onOpen,
  onChanged,
}: {
  project: ProjectInfo
  jobs: ReturnType<typeof useJobs>
  onOpen(files: File[]): void
  onChanged(): void
}) {
  const { message } = App.useApp()
  const [isOver, setIsOver] = useState(false)
  const input = useRef<HTMLInputElement>(null)
  const drop = (event: DragEvent) => {
    event.preventDefault()
    setIsOver(false)
    droppedFiles(event.dataTransfer).then(
      (files) => files.length && onOpen(files),
      (error: unknown) => void message.error(`What was dropped cannot be read: ${wordsOf(error)}`),
    )
  }
  return (
    <section
      className={isOver ? styles.projectOver : styles.project}
      aria-label={project.name}
      onDragOver={(event) => {
        event.preventDefault()
        setIsOver(true)
      }}
      onDragLeave={() => setIsOver(false)}
      onDrop={drop}
    >
      <h2>
        {project.name}
        <span className={styles.quiet}>{counted(project.shots.length, 'shot')}</span>
      </h2>
      <div className={styles.wall}>
        {project.shots.map((shot) => (
          <ShotCard key={shot.id} shot={shot} job={jobs.find((job) => job.shotId === shot.id)} onChanged={onChanged} />
        ))}
        <button type="button" className={styles.drop} onClick={() => input.current?.click()}>
          <span className={styles.plus}>+</span>
          Open a plate
          <small>Drop pictures, a folder or a movie here, or click to choose</small>
        </button>
        <input
          ref={input}
          type="file"
          hidden
          multiple
          aria-label={`Files for ${project.name}`}
          onChange={(event) => {
            const files = [...(event.target.files ?? [])]
            event.target.value = ''
            if (files.length) onOpen(files)
          }}
        />
      </div>
    </section>
  )
}

function NameDialog({ isOpen, onClose, onName }: { isOpen: boolean; onClose(): void; onName(name: string): void }) {
  const [name, setName] = useState('')
  const finish = () => {
    if (name.trim()) onName(name.trim())
  }
  return (
    <Modal
      open={isOpen}
      title="New project"
      okText="Make it"
      okButtonProps={{ disabled: !name.trim() }}
      onOk={finish}
      onCancel={onClose}
      width={380}
      destroyOnHidden
    >
      <Input
        autoFocus
        placeholder="Name"
        aria-label="Name of the project"
        maxLength={80}
        value={name}
        onChange={(event) => setName(event.target.value)}
        onPressEnter={finish}
      />
    </Modal>
  )
}
