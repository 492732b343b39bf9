'use client'

import { App, ConfigProvider } from 'antd'
import type { ReactNode } from 'react'
import { lassoTheme } from './tokens'

/** Theme and messages for every page. */
export function Frame({ children }: { children: ReactNode }) {
  return (
    <ConfigProvider theme={lassoTheme} wave={{ disabled: true }}>
      <App style={{ height: '100%' }}>{children}</App>
    </ConfigProvider>
  )
}
