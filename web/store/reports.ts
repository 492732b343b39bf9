import { create } from 'zustand'

/** Something that can be done about a line of a report, by one click. */
export interface ReportAct {
  words: string
  run(): void
}

export interface ReportLine {
  kind: 'said' | 'doubtful' | 'bad'
  words: string
  acts: readonly ReportAct[]
}

/** What long work has led to, line by line. */
export interface Report {
  title: string
  at: number
  lines: readonly ReportLine[]
}

/** What happened, latest first; those that want something of the artist stay in sight until they are read. */
export const useReports = create<{ reports: readonly Report[]; isOpen: boolean }>(() => ({
  reports: [],
  isOpen: false,
}))

const MOST_REPORTS = 30

/** Keeps a report. One with a line that is not merely good is opened. */
export function report(title: string, lines: readonly ReportLine[]) {
  const { reports, isOpen } = useReports.getState()
  const isWanting = lines.some(({ kind }) => kind !== 'said')
  useReports.setState({
    reports: [{ title, at: Date.now(), lines }, ...reports].slice(0, MOST_REPORTS),
    isOpen: isOpen || isWanting,
  })
}

/** Reports speak of one shot's objects. */
export const forgetReports = () => useReports.setState({ reports: [], isOpen: false })

export const showReports = (isOpen: boolean) => useReports.setState({ isOpen })
