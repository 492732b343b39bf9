import { newId, type EditBatch, type Patch } from '@tender-lasso/core/document'
import { objectAdded } from '@tender-lasso/core/edits'
import { testBatch, testPart, testShape, testShot, testSubject } from '@tender-lasso/core/document/testDocuments'
import { orm, ProjectEntity, ShotEntity } from '../database'
import { afterCommit, commitBatch, SERVER_AUTHOR } from '../editLog'

let sequence = 0

/** A batch of one client, counted on from call to call. */
export const countedBatch = (patches: Patch[], overrides: Partial<EditBatch> = {}) =>
  testBatch(patches, { clientId: 'test', clientSequence: sequence++, ...overrides })

/** A shot without a plate: its row and a first batch with the shot, a Subject, a coat and its outline. */
export async function shotInDatabase(): Promise<string> {
  const em = (await orm()).em.fork()
  const [projectId, id] = [newId(), newId()]
  em.create(ProjectEntity, { id: projectId, name: 'Trial', createdAt: new Date() })
  await em.flush()
  const { width, height, range, rate, pixelAspect } = testShot
  em.create(ShotEntity, {
    id,
    projectId,
    name: 'one',
    createdAt: new Date(),
    width,
    height,
    firstFrame: range[0],
    lastFrame: range[1],
    rateNumerator: rate.numerator,
    rateDenominator: rate.denominator,
    pixelAspect,
    colourEncoding: 'sRGB',
    headSequence: 0,
    sources: [],
    warnings: [],
  })
  await em.flush()
  const objects = [testShot, testSubject, testPart('coat'), testShape('outline', 'coat', [1001])]
  const batch = testBatch(objects.map(objectAdded), { author: SERVER_AUTHOR, clientId: SERVER_AUTHOR })
  const { head } = await em.transactional((tx) => commitBatch(tx, id, batch))
  await afterCommit(em, id, head!)
  return id
}
