'use client'

import { Button } from 'antd'
import { dropShutter, findShutterOnPlate, takeOverShutter } from '../../commands'
import { shownShutter, useShot } from '../../store'
import { MeasuredReport } from './MeasuredReport'
import { MeasuringRow } from './MeasuringRow'
import styles from './properties.module.css'

/** The shutter that the plate shows along fast edges of what is selected, to be taken over. */
export function PlateShutterRows() {
  const report = useShot(shownShutter)
  return (
    <>
      <MeasuringRow
        what="shutter"
        help="Compares the blur of fast clear edges with their speed, on up to 24 frames of the marked stretch or of the shot: along all outlines, or along those of a Part with its own shutter"
        name="From the plate"
        action="Find the shutter"
        onStart={() => void findShutterOnPlate()}
      />
      {report && (
        <MeasuredReport of={report}>
          <p className={styles.hint} data-testid="plate-shutter">
            {`${report.estimate.angle.toFixed(0)} degrees ± ${report.estimate.spread.toFixed(0)}; ${report.estimate.votes.filter(({ weight }) => weight > 0.2).length} of ${report.estimate.votes.length} fast edges agree.`}
          </p>
          <div className={styles.buttons}>
            <Button size="small" type="primary" title="Shutter of the shot" onClick={() => takeOverShutter('shot')}>
              Take over
            </Button>
            <Button size="small" title="A shutter of its own" onClick={() => takeOverShutter('parts')}>
              This Part only
            </Button>
            <Button size="small" onClick={dropShutter}>
              Leave it
            </Button>
          </div>
        </MeasuredReport>
      )}
    </>
  )
}
