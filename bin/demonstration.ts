import { readdirSync } from 'node:fs'
import path from 'node:path'
import { renderShot } from '../demo/renderShot'
import { loadHead } from '../server/editLog'
import { orm, ProjectEntity } from '../server/database'
import { createProject, createShot, findShot } from '../server/shots'
import { importData } from './lassoActs'

const PROJECT = 'Wick Street'
const [FIRST, FRAMES] = [1001, 72]

/** The same film to begin with, and cut: with tracks, a figure that walks, keys, edges and order, to be looked at and taken apart. */
const SHOTS = [
  { id: 'demoWS010', name: 'WS_010 lamplighter', cut: null },
  { id: 'demoWS010cut', name: 'WS_010 cut', cut: path.resolve(import.meta.dirname, '../demo/ws010Cut.json') },
]

/** Edits of a shot that nobody has touched: the one that made it. */
const UNTOUCHED = 1

/**
 * Renders the demonstration and makes its shots, as far as they are not there.
 *
 * @param frameCount  fewer than all for tests; then only the first shot, since the other one's keys go beyond
 */
export async function makeDemonstration(dataFolder: string, frameCount = FRAMES): Promise<void> {
  const folder = path.join(dataFolder, 'demo', 'ws_010')
  let announced = false
  await renderShot({ folder, width: 1280, height: 720, firstFrame: FIRST, frameCount }, (done, total) => {
    announced = true
    process.stdout.write(`\rRendering the demonstration: ${done} of ${total} frames`)
  })
  if (announced) process.stdout.write('\n')
  const em = (await orm()).em.fork()
  const plate = path.join(folder, 'plate')
  const files = readdirSync(plate).map((name) => ({ name, path: path.join(plate, name) }))
  for (const { id, name, cut } of SHOTS) {
    if (cut && frameCount !== FRAMES) continue
    if (!(await findShot(id).catch(() => null))) {
      const known = await em.findOne(ProjectEntity, { name: PROJECT })
      const projectId = known?.id ?? (await createProject(PROJECT))
      const rate = { numerator: 24, denominator: 1 }
      await createShot(projectId, files, { name, firstFrame: FIRST, rate, pixelAspect: 1, colourEncoding: 'sRGB' }, id)
    }
    // Also where the first start was ended between the two.
    if (cut && (await loadHead(em.fork(), id)).sequence === UNTOUCHED) await importData(id, cut, PROJECT)
  }
}
