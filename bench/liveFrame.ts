import { EventSource } from 'eventsource'
import sharp from 'sharp'
import { channelOf, findObject, newId, NEW_OUTPUT_FIELDS, outlineKeys, type Output } from '@tender-lasso/core/document'
import { objectAdded, valuesKeyed } from '@tender-lasso/core/edits'
import { documentOf, testPart, testShape, testSubject, withPatches } from '@tender-lasso/core/document/testDocuments'
import { ADDRESS, shotOf, submit, workspace } from './application'
import { median, percentile, type Benchmark } from './benchmark'

const [WIDTH, HEIGHT, FRAME] = [2048, 1152, 1002]
const EDITS = 25
const WARM_UP = 5

/** From an edit of one point to the changed frame in the hands of who reads it live: three Parts that cut one another, with blur, as half EXR. */
export const liveFrame: Benchmark = {
  name: 'live-frame',
  goal: 150,
  better: 'less',
  async run() {
    await (await workspace()).close()
    const grey = sharp(Buffer.alloc(WIDTH * HEIGHT * 3, 90), { raw: { width: WIDTH, height: HEIGHT, channels: 3 } })
    const picture = await grey.png().toBuffer()
    const shotId = await shotOf('live', [picture, picture, picture])
    const ids = ['a', 'b', 'c']
    const output: Output = { ...NEW_OUTPUT_FIELDS, id: newId(), name: 'Live', order: 9, layout: 'channels', format: 'exr-half' } // prettier-ignore
    const objects = [
      testSubject,
      ...ids.map((id, depth) => testPart(id, { depth })),
      ...ids.map((id) => testShape(`s${id}`, id, [1001, 1002, 1003], 20, 220)),
      output,
    ]
    await submit(shotId, 'live', objects.map(objectAdded))
    const made = await fetch(`${ADDRESS}/api/shots/${shotId}/live`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ name: 'bench', days: 1 }),
    })
    const { token } = (await made.json()) as { token: string }
    const at = (file: string) => `${ADDRESS}/live/${shotId}/${output.id}/${file}?token=${token}`

    const source = new EventSource(at('events'))
    let told: (version: string) => void = () => undefined
    source.addEventListener('versions', ({ data }) => {
      const version = (JSON.parse(data as string) as Record<string, string>)[FRAME]
      if (version) told(version)
    })
    await new Promise((resolve) => source.addEventListener('settled', resolve, { once: true }))

    let document = documentOf(objects)
    const [changed, unchanged]: [number[], number[]] = [[], []]
    try {
      for (let i = 0; i < EDITS; i++) {
        const shape = findObject(document, 'shape', 'sa')!
        const values = outlineKeys(shape)
          .find(({ time }) => time === FRAME)!
          .values.slice()
        // To and fro, and never to where it was: such a frame would still be known.
        values[0]! += (i % 2 ? -1 : 1) * (1 + i / 100)
        const patches = valuesKeyed(channelOf(shape, 'outline'), FRAME, values)
        document = withPatches(document, patches)
        const start = performance.now()
        const received = new Promise<string>((resolve) => (told = resolve)).then(async () => {
          const answer = await fetch(at(`${FRAME}.exr`))
          await answer.arrayBuffer()
          return answer.headers.get('etag')!
        })
        await submit(shotId, 'a point moved', patches)
        const etag = await received
        if (i >= WARM_UP) changed.push(performance.now() - start)
        const again = performance.now()
        const answer = await fetch(at(`${FRAME}.exr`), { headers: { 'If-None-Match': etag } })
        await answer.arrayBuffer()
        if (answer.status !== 304) throw new Error(`An unchanged frame was answered with ${answer.status}`)
        if (i >= WARM_UP) unchanged.push(performance.now() - again)
      }
    } finally {
      source.close()
    }
    return {
      value: median(changed),
      unit: 'ms',
      notes: `${WIDTH} x ${HEIGHT}, 3 mattes; 90 % ${percentile(changed, 90).toFixed(0)} ms; unchanged ${median(unchanged).toFixed(1)} ms (goal 10)`,
    }
  },
}
