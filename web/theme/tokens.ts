import type { ThemeConfig } from 'antd'
import { theme } from 'antd'

const CHALK = '#ece9e2'

/** Neutral greys so that colour can be judged, chalk text, one muted verdigris accent. */
export const lassoTheme: ThemeConfig = {
  algorithm: [theme.darkAlgorithm, theme.compactAlgorithm],
  token: {
    colorPrimary: '#6fb3a0',
    colorInfo: '#6fb3a0',
    colorWarning: '#c79a3b',
    colorError: '#b4553f',
    colorBgBase: '#1e1e1e',
    colorBgContainer: '#242424',
    colorBgElevated: '#2b2b2b',
    colorBorder: '#3a3a3a',
    colorBorderSecondary: '#303030',
    colorTextBase: CHALK,
    // As --quiet: the library's own is too faint to be read on these greys.
    colorTextDescription: '#a5a29c',
    // Dark on the accent: chalk on it would not be readable.
    colorTextLightSolid: '#10201b',
    fontFamily: "'Spline Sans Variable', sans-serif",
    fontFamilyCode: "'Spline Sans Mono', monospace",
    fontSize: 13,
    borderRadius: 4,
    motion: false,
    wireframe: false,
  },
  components: {
    // A border is a hairline, taken hold of a little beside it as well.
    Splitter: { splitBarSize: 1, splitTriggerSize: 7, splitBarDraggableSize: 0 },
    // Chalk again, not what stands on the accent.
    Tooltip: { colorBgSpotlight: '#383838', colorTextLightSolid: CHALK },
  },
}
