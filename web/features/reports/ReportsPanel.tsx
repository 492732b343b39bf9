'use client'

import { Button } from 'antd'
import { X } from 'lucide-react'
import { showReports, useReports, type Report } from '../../store'
import styles from './reports.module.css'

const time = new Intl.DateTimeFormat(undefined, { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' })

/** What long work has led to and what would help, between the panels; it stays until it is read and closed. */
export function ReportsPanel() {
  const { reports, isOpen } = useReports()
  if (!isOpen) return null
  return (
    <section className={styles.panel} aria-label="What happened">
      <header className={styles.header}>
        <span>What happened</span>
        <Button
          size="small"
          type="text"
          aria-label="Close what happened"
          icon={<X size={14} />}
          onClick={() => showReports(false)}
        />
      </header>
      <div className={styles.list}>
        {reports.length === 0 && <p className={styles.quiet}>Nothing yet.</p>}
        {reports.map((report) => (
          <ReportView key={report.at} report={report} />
        ))}
      </div>
    </section>
  )
}

function ReportView({ report: { title, at, lines } }: { report: Report }) {
  return (
    <article className={styles.report}>
      <h3>
        {title}
        <time>{time.format(at)}</time>
      </h3>
      {lines.map(({ kind, words, acts }, i) => (
        <div key={i}>
          <p className={styles[kind]}>{words}</p>
          <div className={styles.acts}>
            {acts.map((act) => (
              <Button key={act.words} size="small" onClick={act.run}>
                {act.words}
              </Button>
            ))}
          </div>
        </div>
      ))}
    </article>
  )
}
