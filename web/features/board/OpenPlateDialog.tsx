'use client'

import { useEffect, useRef, useState } from 'react'
import { Alert, Form, Input, InputNumber, Modal, Progress, Select } from 'antd'
import { rateFromDecimal, rateName, type Rate } from '@tender-lasso/core/timing'
import { api, wordsOf, jobsChanged } from '../../session'
import { uploadFiles, type UploadedFile } from './uploadFiles'
import styles from './board.module.css'
import { counted } from '../../words/counted'

interface Inspected {
  kind: 'sequence' | 'movie'
  width: number
  height: number
  firstFrame: number
  frameCount: number
  rate: Rate
  ownRate: Rate
  pixelAspect: number
  colourEncoding: string
  bitDepth: number
  order: string[]
  warnings: string[]
}

interface Settings {
  name: string
  firstFrame: number
  rate: number
  pixelAspect: number
  colourEncoding: string
}

const RATES = [23.976, 24, 25, 29.97, 30, 48, 50, 59.94, 60]

/** Uploads the files, says what they are, and makes the shot with the settings the artist leaves or changes. */
export function OpenPlateDialog({
  projectId,
  files,
  onClose,
}: {
  projectId: string
  files: File[]
  onClose(isMade: boolean): void
}) {
  const [percent, setPercent] = useState(0)
  const [uploaded, setUploaded] = useState<UploadedFile[] | null>(null)
  const [plate, setPlate] = useState<Inspected | null>(null)
  const [failure, setFailure] = useState<string | null>(null)
  const [isMaking, setIsMaking] = useState(false)
  const [form] = Form.useForm<Settings>()
  const cancel = useRef<AbortController | null>(null)

  useEffect(() => {
    const abort = new AbortController()
    cancel.current = abort
    const read = async () => {
      const empty = files.find((file) => file.size === 0)
      if (empty) throw new Error(`${empty.name} is empty (0 bytes)`)
      const done = await uploadFiles(
        files,
        (sent, total) => setPercent(Math.round((100 * sent) / Math.max(1, total))),
        abort.signal,
      )
      setUploaded(done)
      setPlate(await api<Inspected>('/api/inspect', { body: JSON.stringify({ files: done }) }))
    }
    read().catch((error: unknown) => {
      if (!abort.signal.aborted) setFailure(wordsOf(error))
    })
    return () => abort.abort()
  }, [files])

  const make = async () => {
    const settings = await form.validateFields()
    setIsMaking(true)
    try {
      await api('/api/shots', {
        body: JSON.stringify({
          projectId,
          files: uploaded,
          settings: { ...settings, rate: rateOf(settings.rate, plate!) },
        }),
      })
      jobsChanged()
      onClose(true)
    } catch (error) {
      setFailure(wordsOf(error))
      setIsMaking(false)
    }
  }

  return (
    <Modal
      open
      title="Open a plate"
      okText="Make the shot"
      okButtonProps={{ disabled: !plate || failure !== null, loading: isMaking }}
      onOk={() => void make()}
      onCancel={() => onClose(false)}
      width={460}
      mask={{ closable: false }}
    >
      {failure && <Alert type="error" showIcon title="This plate cannot be opened" description={failure} />}
      {!failure && !plate && (
        <div>
          <p className={styles.quiet}>
            {percent < 100 ? `Sending ${counted(files.length, 'file')}` : 'Looking at the files'}
          </p>
          <Progress aria-label="Sending" percent={percent} size="small" />
        </div>
      )}
      {plate && !failure && (
        <>
          <p className={styles.detected}>
            {plate.kind === 'movie'
              ? `Movie of about ${plate.frameCount} frames`
              : `${plate.frameCount} pictures, ${plate.order[0]} to ${plate.order.at(-1)}`}
            , {plate.width} x {plate.height}, {plate.bitDepth} bit
          </p>
          {plate.warnings.map((words) => (
            <Alert key={words} type="warning" showIcon title={words} />
          ))}
          <Form<Settings>
            form={form}
            size="small"
            labelCol={{ span: 8 }}
            wrapperCol={{ span: 14 }}
            initialValues={{
              name: nameOf(plate.order[0]!),
              firstFrame: plate.firstFrame,
              rate: Number(rateName(plate.rate)),
              pixelAspect: plate.pixelAspect,
              colourEncoding: plate.colourEncoding,
            }}
          >
            <Form.Item
              name="name"
              label="Shot"
              rules={[{ required: true, whitespace: true, message: 'A shot needs a name' }]}
            >
              <Input maxLength={80} />
            </Form.Item>
            <Form.Item name="firstFrame" label="First frame" rules={[{ required: true }]}>
              <InputNumber min={0} max={9999999} precision={0} />
            </Form.Item>
            <Form.Item name="rate" label="Frames per second" rules={[{ required: true }]}>
              <Select
                options={rateChoices(plate).map((rate) => ({ value: rate, label: String(rate) }))}
                style={{ width: 120 }}
              />
            </Form.Item>
            <Form.Item name="pixelAspect" label="Pixel aspect" rules={[{ required: true }]}>
              <InputNumber min={0.1} max={10} step={0.1} />
            </Form.Item>
            <Form.Item name="colourEncoding" label="Colour encoding">
              <Select
                options={['sRGB', 'Rec.709', 'linear', 'log'].map((value) => ({ value, label: value }))}
                style={{ width: 120 }}
              />
            </Form.Item>
          </Form>
        </>
      )}
    </Modal>
  )
}

function rateChoices(plate: Inspected): number[] {
  return [...new Set([Number(rateName(plate.rate)), Number(rateName(plate.ownRate)), ...RATES])].sort((a, b) => a - b)
}

/** The file's own fraction when the artist left it, else what the number stands for. */
function rateOf(chosen: number, plate: Inspected): Rate {
  const own = [plate.rate, plate.ownRate].find((rate) => Number(rateName(rate)) === chosen)
  return own ?? rateFromDecimal(chosen)
}

function nameOf(file: string): string {
  return file.replace(/\.[^.]+$/, '').replace(/[._-]?\d+$/, '') || file
}
