import { bridgeMade, fieldSet } from '@tender-lasso/core/edits'
import { findObject, withPatchesApplied, type Track } from '@tender-lasso/core/document'
import { patchesForSamples } from '@tender-lasso/core/evaluation'
import { trackStamp } from '@tender-lasso/core/tracks'
import type { LostEnd } from '@tender-lasso/core/tracking'
import { report, type ReportAct, type ReportLine, goTo, onlyTracks, say, select, useShot } from '../store'
import { edit } from '../session'
import type { RunEnd } from '../workers/track.worker'
import { counted } from '../words/counted'

export type TrackDirection = 'forward' | 'backward' | 'both'

/** Frames that were known before and were tracked anew; that were not known; that were known and are no more. */
interface Counts {
  redone: number
  fresh: number
  lost: number
}

/** How one stretch of a track ended in one direction. */
export interface Outcome extends Counts {
  track: Track
  end: RunEnd
  /** The last good frame. */
  at: number
  /** Whether its pattern held in one direction only. */
  slides: boolean
}

export const isLost = (end: RunEnd) => end.reason !== 'finished' && end.reason !== 'stopped'

/** Tracks what is selected on. */
type GoOn = (direction: TrackDirection) => void

/**
 * Says how a run ended: in a line at once, and where tracks were lost, whole and track by track, in the list of what
 * happened, with what would help.
 *
 * @param kept  frames of each track that were as a run would make them
 */
export function tellHow(
  tracks: readonly Track[],
  outcomes: readonly Outcome[],
  kept: readonly number[],
  direction: TrackDirection,
  goOn: GoOn,
) {
  const lines = tracks.flatMap((track, i): ReportLine[] => {
    const own = outcomes.filter((outcome) => outcome.track.id === track.id)
    const counts = countWords(own, kept[i]!)
    const lost = own.filter(({ end }) => isLost(end))
    const slides = own.some((outcome) => outcome.slides)
    if (lost.length > 0) return lost.map((outcome) => lostLine(outcome, counts, goOn))
    if (!slides) return [{ kind: 'said', words: `${track.name}: ${counts}`, acts: [] }]
    return [{ kind: 'doubtful', words: `${track.name}: ${counts}, but it may slide along an edge: take in a corner`, acts: [goThere(track, own[0]!.at)] }] // prettier-ignore
  })
  const wanting = lines.filter(({ kind }) => kind !== 'said')
  if (wanting.length > 0) report(`Track ${direction === 'both' ? 'both ways' : direction}`, wanting)
  const early = new Set(outcomes.filter(({ end }) => isLost(end)).map(({ track }) => track.id)).size
  // What wants something of the artist stands whole in the list: the line above the picture only points there.
  if (tracks.length === 1 && early === 0) return say(lines[0]!.kind, lines[0]!.words)
  const who = tracks.length === 1 ? tracks[0]!.name : `${tracks.length} tracks`
  const total = `${who}: ${countWords(
    outcomes,
    kept.reduce((a, b) => a + b, 0),
  )}`
  say(
    early > 0 ? 'doubtful' : 'said',
    early > 0 ? `${total}; ${tracks.length === 1 ? 'it' : `${early} of them`} ended early` : total,
  )
}

/** "72 frames: 24 kept, 8 redone, 40 new, 3 lost"; frames that all are new are only counted. */
export function countWords(outcomes: readonly Counts[], kept: number): string {
  const sum = (of: (counts: Counts) => number) => outcomes.reduce((total, counts) => total + of(counts), 0)
  const [redone, fresh, lost] = [sum((o) => o.redone), sum((o) => o.fresh), sum((o) => o.lost)]
  const total = kept + redone + fresh
  if (total + lost === 0) return 'no frame to track that way'
  if (redone + fresh + lost === 0) return `all ${counted(kept, 'frame')} kept, none to track that way`
  if (kept + redone + lost === 0) return counted(total, 'frame')
  const words = [
    kept > 0 && `${kept} kept`,
    redone > 0 && `${redone} redone`,
    fresh > 0 && `${fresh} new`,
    lost > 0 && `${lost} lost`,
  ]
  return `${counted(total, 'frame')}: ${words.filter((part) => part !== false).join(', ')}`
}

function lostLine(outcome: Outcome, counts: string, goOn: GoOn): ReportLine {
  const { track, end } = outcome
  if (end.reason === 'problem') return { kind: 'bad', words: `${track.name}: ${end.words}`, acts: [] }
  const lost = end as LostEnd
  const [why, acts] = reasonOf(track, lost, goOn)
  const again = lost.again ? [bridgeTo(outcome, lost, goOn)] : []
  return {
    kind: 'doubtful',
    words: `${track.name} stopped at ${outcome.at}: ${why} (${counts})`,
    acts: [...again, ...acts, goThere(track, outcome.at)],
  }
}

/** Two numbers in as many digits as tell them apart. */
export function toldApart(a: number, b: number): [string, string] {
  for (let digits = 2; digits < 8; digits++) {
    if (a.toFixed(digits) !== b.toFixed(digits)) return [a.toFixed(digits), b.toFixed(digits)]
  }
  return [String(a), String(b)]
}

/** Why a track was lost, in words that name the setting, and the changes that would help. */
function reasonOf(track: Track, end: LostEnd, goOn: GoOn): [string, ReportAct[]] {
  switch (end.reason) {
    case 'outside':
      return [`on ${end.frame} it leaves the picture. Another pattern (Adjust, Alt-drag) would carry it on`, []]
    case 'hidden':
      return [`on ${end.frame} ${Math.round(100 * end.hidden)} % of it is behind what is left out`, []]
    case 'alike':
      return [`on ${end.frame} other places beside it are as like (match ${end.match.toFixed(2)}). A larger region, or one with a corner, would tell them apart`, []] // prettier-ignore
    case 'no-return': {
      const limit = track.mostReturnError ?? 0
      if (!Number.isFinite(end.pixels))
        return [`on ${end.frame} it leads nowhere when tracked back`, letItTurn(track, goOn)]
      const [missed, allowed] = toldApart(end.pixels, limit)
      const words = `on ${end.frame} it misses by ${missed} px when tracked back; Return within allows ${allowed} px`
      const wider = Math.ceil(10 * Math.min(20, end.pixels * 1.2)) / 10
      const acts = end.pixels < 8 ? [withSetting(goOn, track, `Allow ${wider} px and go on`, 'mostReturnError', wider)] : [] // prettier-ignore
      return [words, [...acts, ...letItTurn(track, goOn)]]
    }
    case 'lost': {
      if (end.kept < 0.2 || end.match === 0) {
        return [`on ${end.frame} too little of it is left to see. Leave out what covers it, or Bridge the stretch`, letItTurn(track, goOn)] // prettier-ignore
      }
      const [match, least] = toldApart(end.match, track.minimumMatch)
      const lower = Math.floor(20 * Math.min(end.match, track.minimumMatch) - 0.5) / 20
      const acts = lower >= 0.4 ? [withSetting(goOn, track, `Stop below ${lower.toFixed(2)} and go on`, 'minimumMatch', lower)] : [] // prettier-ignore
      return [`on ${end.frame} its match is ${match}; Stop below is ${least}`, [...letItTurn(track, goOn), ...acts]]
    }
  }
}

/** What helps a pattern that may only shift, where it is a point, or only turn. */
function letItTurn(track: Track, goOn: GoOn): ReportAct[] {
  if (track.surface === 'point' && !track.preprocessing.follows) {
    return [
      withSetting(goOn, track, 'Follow turn and size inside', 'preprocessing', {
        ...track.preprocessing,
        follows: true,
      }),
    ]
  }
  if (track.surface === 'plane' && track.model !== 'perspective') {
    return [withSetting(goOn, track, 'Track as Perspective', 'model', 'perspective')]
  }
  return []
}

function withSetting<Field extends keyof Track & string>(
  goOn: GoOn,
  { id }: Track,
  words: string,
  field: Field,
  value: Track[Field],
): ReportAct {
  return {
    words,
    run() {
      const track = findObject(useShot.getState().document, 'track', id)
      if (!track) return say('doubtful', 'The track is gone')
      select(onlyTracks([id]))
      if (edit(`${words} (${track.name})`, [fieldSet(track, field, value)])) goOn('both')
    },
  }
}

const goThere = ({ id }: Track, frame: number): ReportAct => ({
  words: `Go to ${frame}`,
  run() {
    if (findObject(useShot.getState().document, 'track', id)) select(onlyTracks([id]))
    goTo(frame)
  },
})

/** A Bridge from the last good frame to the one on which the pattern was found again, tracked on from there. */
function bridgeTo({ track: { id }, at }: Outcome, { again, frame }: LostEnd, goOn: GoOn): ReportAct {
  const found = again!
  return {
    words: `Bridge to ${found.frame}, where it is found again`,
    run() {
      const { document } = useShot.getState()
      const track = findObject(document, 'track', id)
      if (!track) return say('doubtful', 'The track is gone')
      const sample = { ...found, state: 'tracked' as const, stamp: trackStamp(document, track, found.frame) }
      const samples = patchesForSamples(track, [sample])
      // The Bridge leaves and meets what is known: it is made on the track as it is with the sample.
      const [from, to] = found.frame > frame ? [at, found.frame] : [found.frame, at]
      const withFound = findObject(withPatchesApplied(document, samples), 'track', id)!
      const patches = [...samples, ...bridgeMade(withFound, from, to)]
      select(onlyTracks([id]))
      if (!edit(`bridge ${track.name} from ${from} to ${to}`, patches)) return
      goTo(found.frame)
      goOn(found.frame > frame ? 'forward' : 'backward')
    },
  }
}
