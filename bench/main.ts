import { availableParallelism } from 'node:os'
import { alignment } from './alignment'
import { closeBrowser } from './application'
import type { Benchmark } from './benchmark'
import { dragFeather, dragPoint, largeDocumentOpens, openShot, playback, scrub } from './browser'
import { demoSurfaces } from './demoSurfaces'
import { editLatency, everywhere } from './documents'
import { dragMany, evaluate, undo } from './feel'
import { edgeExact } from './edgeExact'
import { exportFrames, exportLottie, exportMany, exportManyFiles, exportSoftFrames, exportSvg } from './handoff'
import { ingest } from './ingest'
import { liveFrame } from './liveFrame'
import { planarBlurred } from './blurredPlane'
import { planarAccuracy, planarOccluded, points } from './planes'
import { fillShapes, fillShapesBlur, featherShapes } from './rasterise'
import { planarTrack } from './tracking'
import { planarSpeed, pointsSpeed } from './trackingSpeed'

const BENCHMARKS: readonly Benchmark[] = [
  openShot,
  dragPoint,
  dragFeather,
  dragMany,
  undo,
  evaluate,
  scrub,
  playback,
  fillShapes,
  fillShapesBlur,
  featherShapes,
  edgeExact,
  planarTrack,
  alignment,
  planarAccuracy,
  planarOccluded,
  planarBlurred,
  demoSurfaces,
  points,
  planarSpeed,
  pointsSpeed,
  ingest,
  exportFrames,
  exportSoftFrames,
  exportMany,
  exportManyFiles,
  exportSvg,
  exportLottie,
  liveFrame,
  largeDocumentOpens,
  editLatency,
  everywhere,
]

const [wanted] = process.argv.slice(2)
const chosen = wanted ? BENCHMARKS.filter((benchmark) => benchmark.name === wanted) : BENCHMARKS
if (chosen.length === 0) {
  console.error(`No benchmark ${wanted}; there are: ${BENCHMARKS.map((benchmark) => benchmark.name).join(', ')}`)
  process.exit(2)
}
console.log(`${availableParallelism()} cores, Node ${process.version}; medians`)
let isMissed = false
try {
  for (const benchmark of chosen) {
    const { value, unit, notes } = await benchmark.run()
    const isMet = benchmark.better === 'less' ? value <= benchmark.goal : value >= benchmark.goal
    isMissed ||= !isMet
    const goal = Number(benchmark.goal.toFixed(3))
    console.log(`  ${notes}${isMet ? '' : ' - goal missed'}`)
    console.log(`${benchmark.name} ${value.toFixed(value < 10 ? 3 : 1)} ${unit}, goal ${goal}`)
  }
} finally {
  await closeBrowser()
}
process.exit(isMissed ? 1 : 0)
