import '@fontsource-variable/spline-sans'
import '@fontsource/spline-sans-mono/400.css'
import '@fontsource/spline-sans-mono/500.css'
import '../theme/global.css'
import type { Metadata } from 'next'
import type { ReactNode } from 'react'
import { Frame } from '../theme/Frame'

export const metadata: Metadata = {
  title: 'Tender Lasso',
  description: 'Rotoscoping: articulated spline mattes driven by tracks',
}

export default function Layout({ children }: { children: ReactNode }) {
  return (
    <html lang="en">
      <body>
        <Frame>{children}</Frame>
      </body>
    </html>
  )
}
