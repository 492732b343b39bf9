import type { ApexOptions } from 'apexcharts'

/** Charts that stand still and fit into the page: nothing moves, zooms or has a toolbar. */
export const CALM_CHART = {
  type: 'line',
  animations: { enabled: false },
  toolbar: { show: false },
  zoom: { enabled: false },
  background: 'transparent',
  fontFamily: 'Spline Sans Variable, sans-serif',
} satisfies ApexOptions['chart']
