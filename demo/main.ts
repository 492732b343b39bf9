import { renderShot } from './renderShot'

/** tsx demo/main.ts FOLDER [WIDTH HEIGHT FRAMES]: renders WS_010 and its truth. */
const [folder, width = '1280', height = '720', frames = '72'] = process.argv.slice(2)
if (!folder) {
  console.error('Usage: tsx demo/main.ts FOLDER [WIDTH HEIGHT FRAMES]')
  process.exit(2)
}
const options = { folder, width: Number(width), height: Number(height), firstFrame: 1001, frameCount: Number(frames) }
await renderShot(options, (done, total) => process.stdout.write(`\rRendering Wick Street: ${done} of ${total} frames`))
process.stdout.write('\n')
