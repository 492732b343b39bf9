import { create } from 'zustand'
import { persist } from 'zustand/middleware'
import {
  allOf,
  EMPTY_DOCUMENT,
  findObject,
  withPatchesApplied,
  type Patch,
  type RotoDocument,
  type KeyAddress,
  type Keyed,
  type Part,
  type Shape,
} from '@tender-lasso/core/document'
import type { EdgeMeasure, ShutterEstimate, ShutterVote, Softness } from '@tender-lasso/core/measures'
import type { ReadStretches } from '../media'
import { fittingSettings, rememberedOf, settingsStorage } from './rememberedSettings'
import { forgetReports } from './reports'
import type { SaveState, SetAside } from './saving'
import type { Step, ToolName } from './steps'
import type { ShotInfo } from './serverAnswers'

export interface Selection {
  partId: string | null
  shapeIds: readonly string[]
  pointIds: ReadonlySet<string>
  /** The one chosen last is the one that properties and lanes are about. */
  trackIds: readonly string[]
  /** Keys selected in the timeline, of whatever shapes and Parts. */
  keys: readonly KeyAddress[]
}

export const NOTHING_SELECTED: Selection = {
  partId: null,
  shapeIds: [],
  pointIds: new Set(),
  trackIds: [],
  keys: [],
}

/** Tracks selected, and nothing else. */
export const onlyTracks = (trackIds: readonly string[]): Selection => ({ ...NOTHING_SELECTED, trackIds })

/** The track chosen last. */
export const mainTrackId = (selection: Pick<Selection, 'trackIds'>) => selection.trackIds.at(-1) ?? null

export const VIEW_MODES = ['plate', 'fill', 'matte', 'cutout'] as const
export type ViewMode = (typeof VIEW_MODES)[number]
export const CHANNELS = ['rgb', 'red', 'green', 'blue', 'luma'] as const
export type Channel = (typeof CHANNELS)[number]

/** Four corners on a frame that a track carries through the shot, and what is drawn on them. */
export interface ProofLaid {
  trackId: string
  frame: number
  /** x0, y0 ... plate pixels. */
  corners: readonly number[]
  content: { kind: 'grid' } | { kind: 'text'; text: string } | { kind: 'picture'; name: string; image: ImageBitmap }
}

/** Outlines of what is selected at times before and after the present frame. */
export interface OnionSkin {
  /** How many to each side; 0: none. */
  count: number
  by: 'keys' | 'frames'
  opacity: number
}
const NO_ONION: OnionSkin = { count: 0, by: 'keys', opacity: 0.5 }

export const REACHES = ['here', 'onward', 'back', 'span', 'everywhere'] as const
export type ReachKind = (typeof REACHES)[number]

/** How edits of shapes and poses are made. */
/** How soft the plate was found along shapes, on one frame or on several. */
export interface SoftnessReport {
  shapeIds: readonly string[]
  /** In the order of time. */
  frames: readonly SoftnessOnFrame[]
}

export interface SoftnessOnFrame {
  frame: number
  ofShapes: readonly { shapeId: string; measures: readonly EdgeMeasure[] }[]
  /** Null: too few edges are clear. */
  softness: Softness | null
}

/** A delivery that is looked at. */
export interface DeliveryShown {
  jobId: string
  /** What it is called: output and version. */
  name: string
  mattes: readonly { partId: string; name: string }[]
  /** Its pixels for each of the plate. */
  scale: number
  /** Against the mattes as they are now; false: as the files hold them. */
  isCompared: boolean
}

/** One matte of it on one frame. */
export interface DeliveredMatteShown {
  jobId: string
  isCompared: boolean
  matte: { partId: string; name: string }
  frame: number
  /** null where there is none: `trouble` says why. */
  picture: ImageBitmap | null
  trouble: string | null
  /** How it differs from the present one; null where that was not asked. */
  difference: { differing: number; largest: number } | null
}

/** Whether what is known is of this delivery, shown in this way, on this frame. */
export const isShownOn = (
  shown: DeliveredMatteShown | null,
  { jobId, isCompared }: DeliveryShown,
  frame: number,
): shown is DeliveredMatteShown =>
  shown !== null && shown.jobId === jobId && shown.isCompared === isCompared && shown.frame === frame

/** Frames that are looked at: this one, those of the keys of what is selected, or some of the marked stretch. */
export type MeasuredFrames = 'here' | 'keys' | 'range'

/** The shutter that the plate was found to show along the outlines of shapes. */
export interface ShutterReport {
  partIds: readonly string[]
  estimate: ShutterEstimate
  /** What spoke, by the frame on which it was seen. */
  votes: readonly { frame: number; vote: ShutterVote }[]
}

/** A measurement under way. */
export interface Measuring {
  what: 'softness' | 'shutter'
  done: number
  all: number
}

export interface Editing {
  /** Frames that the next edit touches. */
  reach: ReachKind
  /** true: the Reach stays after an edit; else it falls back to Here. */
  isReachLocked: boolean
  /** Frames over which a Span fades on both sides. */
  spanFalloff: number
  /** An edit makes a key where there is none. */
  makesKeys: boolean
  /** A new key holds only the points that the edit moves. */
  onlyTouched: boolean
  /** Plate pixels round the selected points within which others go along, less the farther; 0: none. */
  softness: number
  /** Dragged points catch on others, on guides and on the edge of the frame. */
  snaps: boolean
  /** Width of a new stroke, plate pixels. */
  strokeWidth: number
  /** What the joints tool makes: the name of a plan. */
  rigPlan: string
  /** What the next drawn shape does to those of its Part below it; afterwards they add again. */
  nextOperation: Shape['operation']
}
const EDITING_AS_EVER: Editing = {
  reach: 'here',
  isReachLocked: false,
  spanFalloff: 4,
  makesKeys: true,
  onlyTouched: false,
  softness: 0,
  snaps: false,
  strokeWidth: 12,
  rigPlan: 'figure',
  nextOperation: 'add',
}

/** What a cut-out is laid over. */
export const GROUNDS = ['grey', 'checker', 'colour', 'picture'] as const
export type Ground = (typeof GROUNDS)[number]

export interface View {
  /** Screen pixels per plate pixel (before pixel aspect). */
  zoom: number
  /** Screen position of the plate's origin, CSS pixels. */
  panX: number
  panY: number
  mode: ViewMode
  fillOpacity: number
  cutoutGround: Ground
  /** For a ground of one colour, #rrggbb. */
  groundColour: string
  /** For a ground that is a picture: a trial comp. */
  groundPicture: { name: string; bitmap: ImageBitmap } | null
  /** CSS pixels of outlines, those of selected ones a little more; and half the size of their points. */
  lineWidth: number
  handleSize: number
  exposure: number
  gamma: number
  channel: Channel
  /** Track that holds the picture still, or null. */
  steadyTrackId: string | null
  /** Steady follows the track's way without its shake, in place of holding it still. */
  isSteadySmooth: boolean
  /** Parts that alone are shown and taken hold of; empty: all. */
  solo: readonly string[]
  hideOverlays: boolean
  proofLaid: ProofLaid | null
  onion: OnionSkin
  /** Outlines of what is selected where the shutter opens and closes are drawn. */
  showsShutter: boolean
  /** The box round the selected points is drawn. */
  showsBox: boolean
  /** Another state of the shot whose outlines are drawn beside the present ones. */
  compared: { name: string; document: RotoDocument } | null
  /** A delivery whose files are looked at in place of the plate, or null. */
  delivery: DeliveryShown | null
  /** The pixels that the selected track uses on this frame are drawn. */
  showPixelsUsed: boolean
  /** What stays put on screen while the frames change: a track's centre, or what is selected. */
  keepInView: { trackId: string } | 'selection' | null
}

export const TIMELINE_FACES = ['threads', 'curves', 'charts', 'proof', 'edges', 'outputs'] as const
/** threads and knots; channels as curves; measures as charts; the proof strip; one place of an edge on several frames; what is handed off. */
export type TimelineFace = (typeof TIMELINE_FACES)[number]

/** Which rows the threads show beside those of what is selected. */
export interface ThreadRows {
  /** Parts whose rows stay. */
  pinned: readonly string[]
  /** Parts whose pose and shapes have rows of their own below the one that sums them up. */
  unfolded: readonly string[]
  /** Parts with this in their name have rows as well. */
  search: string
}

export interface TrackProgress {
  trackIds: readonly string[]
  frame: number
  done: number
  total: number
  framesPerSecond: number
  secondsLeft: number
}

/** Which pixels of a frame a track uses, and how much each counts (0 to 1). */
export interface PixelsShown {
  trackId: string
  frame: number
  positions: Float32Array
  weights: Float32Array
  /** Plane of the picture that it looks at. */
  channel: string
}

export interface Message {
  kind: 'said' | 'doubtful' | 'bad'
  words: string
  at: number
}

export interface ShotState {
  info: ShotInfo | null
  readStretches: ReadStretches
  /** The frame whose picture the viewer waits for, and whether it did not come; null: it is there, or has only just been asked for. */
  awaited: { frame: number; isLost: boolean } | null
  document: RotoDocument
  /** The document with the gesture under way on top; what the viewer draws. */
  shown: RotoDocument
  /** How soft the plate was found along shapes on a frame; nothing of it is taken over yet. */
  softness: SoftnessReport | null
  /** The same of the shutter. */
  shutterFound: ShutterReport | null
  measuring: Measuring | null
  saveState: SaveState
  waiting: number
  undoLabel: string | null
  redoLabel: string | null
  setAside: SetAside[]
  author: string
  frame: number
  isPlaying: boolean
  playMode: 'loop' | 'to-and-fro'
  droppedFrames: number
  step: Step
  /** The output whose settings and deliveries are shown; null, or one that is gone: the first. */
  outputId: string | null
  tool: ToolName
  /** Tool to fall back to when the held key is let go. */
  toolBeforeHold: ToolName | null
  /** Sides to which straight limbs are to bend when they are pulled, by the id of the lower bone. */
  bendSides: Readonly<Record<string, 1 | -1>>
  /** Where Turn turns about, in plate pixels; null: the middle of what is selected. */
  pivot: readonly [number, number] | null
  editing: Editing
  selection: Selection
  /** The Subject of the Part that was selected last. */
  lastSubjectId: string | null
  view: View
  track: TrackProgress | null
  pixelsUsed: PixelsShown | null
  deliveredMatte: DeliveredMatteShown | null
  /** Stretch of frames marked in the timeline, both ends included. */
  range: readonly [number, number] | null
  timelineFace: TimelineFace
  threadRows: ThreadRows
  message: Message | null
  /** What the tool under the hand waits for. */
  prompt: string | null
  /** A word or two of the tool at the pointer. */
  tag: string | null
  /** What a press where the pointer is would take hold of. */
  grip: string | null
  /** The Part whose name is to be typed in the list. */
  renamingId: string | null
  panelsHidden: boolean
  helpOpen: boolean
  historyOpen: boolean
}

/** How the view begins in each shot; the rest of it stays as the artist had it. */
const VIEW_WITHOUT_SHOT = {
  zoom: 0,
  steadyTrackId: null,
  proofLaid: null,
  keepInView: null,
  compared: null,
  delivery: null,
  solo: [],
} satisfies Partial<View>

/** What belongs to the shot that is open: nothing of it comes along into the next one. */
const WITHOUT_SHOT = {
  info: null,
  readStretches: null,
  awaited: null,
  document: EMPTY_DOCUMENT,
  shown: EMPTY_DOCUMENT,
  softness: null,
  shutterFound: null,
  measuring: null,
  saveState: 'saved',
  waiting: 0,
  undoLabel: null,
  redoLabel: null,
  setAside: [],
  isPlaying: false,
  droppedFrames: 0,
  outputId: null,
  bendSides: {},
  pivot: null,
  selection: NOTHING_SELECTED,
  lastSubjectId: null,
  track: null,
  pixelsUsed: null,
  range: null,
  message: null,
  renamingId: null,
} satisfies Partial<ShotState>

const atFirst: ShotState = {
  ...WITHOUT_SHOT,
  author: 'Artist',
  frame: 1001,
  playMode: 'loop',
  step: 'Study',
  tool: 'select',
  toolBeforeHold: null,
  editing: EDITING_AS_EVER,
  view: {
    ...VIEW_WITHOUT_SHOT,
    panX: 0,
    panY: 0,
    mode: 'plate',
    fillOpacity: 0.35,
    cutoutGround: 'grey',
    groundColour: '#2f6b3a',
    groundPicture: null,
    lineWidth: 1,
    handleSize: 3.4,
    exposure: 0,
    gamma: 1,
    channel: 'rgb',
    isSteadySmooth: false,
    hideOverlays: false,
    onion: NO_ONION,
    showsShutter: false,
    showsBox: true,
    showPixelsUsed: false,
  },
  deliveredMatte: null,
  timelineFace: 'threads',
  threadRows: { pinned: [], unfolded: [], search: '' },
  prompt: null,
  tag: null,
  grip: null,
  panelsHidden: false,
  helpOpen: false,
  historyOpen: false,
}

/** The state of the page. Settings are kept in this browser; they come back when the workspace asks for them. */
export const useShot = create<ShotState>()(
  persist(() => atFirst, {
    name: 'settings',
    version: 1,
    storage: settingsStorage(),
    partialize: rememberedOf,
    // Not while the page is made on the server, nor before what was made there is taken over.
    skipHydration: true,
    merge: (stored, state) => {
      const { editing, view } = fittingSettings(stored)
      return { ...state, editing: { ...state.editing, ...editing }, view: { ...state.view, ...view } }
    },
  }),
)

const set = useShot.setState
const get = useShot.getState

/** Begins with a shot on its first frame: settings and tools stay, what belonged to another shot goes. */
export function beginWithShot(info: ShotInfo, author: string) {
  forgetShot()
  set({ info, author, frame: info.firstFrame })
}

/** Takes all of the shot away that was open. */
export function forgetShot() {
  set({ ...WITHOUT_SHOT, view: { ...get().view, ...VIEW_WITHOUT_SHOT } })
  forgetReports()
}

/** Shows the document as the gesture under way would leave it. */
export function preview(patches: Patch[]) {
  set({ shown: withPatchesApplied(get().document, patches) })
}

export function say(kind: Message['kind'], words: string) {
  set({ message: { kind, words, at: Date.now() } })
}

/** What comes by itself, not as the answer to an act: it does not push aside what is wrong. */
export function sayInPassing(words: string) {
  const { message } = get()
  if (message === null || message.kind === 'said') say('said', words)
}

/** The selection without what the document has lost. */
export function stillThere(document: RotoDocument, selection: Selection): Selection {
  const shapeIds = selection.shapeIds.filter((id) => findObject(document, 'shape', id))
  const partId = selection.partId && findObject(document, 'part', selection.partId) ? selection.partId : null
  const trackIds = selection.trackIds.filter((id) => findObject(document, 'track', id))
  const unchanged =
    shapeIds.length === selection.shapeIds.length &&
    partId === selection.partId &&
    trackIds.length === selection.trackIds.length
  return unchanged ? selection : { ...selection, shapeIds, partId, trackIds, pointIds: new Set() }
}

export function select(change: Partial<Selection>) {
  const { selection: before, pivot, document, lastSubjectId } = get()
  const selection = { ...before, ...change }
  const part = selection.partId === null ? undefined : findObject(document, 'part', selection.partId)
  // A pivot was clicked for what was selected then.
  const isElsewhere = selection.partId !== before.partId || selection.shapeIds.join(' ') !== before.shapeIds.join(' ')
  set({ selection, pivot: isElsewhere ? null : pivot, lastSubjectId: part?.subjectId ?? lastSubjectId })
}

export function setView(change: Partial<View>) {
  set({ view: { ...get().view, ...change } })
}

/** Frames that may be shown: the shot's range. */
export function shotRange(state: ShotState = get()): [number, number] {
  return state.info ? [state.info.firstFrame, state.info.lastFrame] : [1001, 1001]
}

export function goTo(frame: number) {
  const [first, last] = shotRange()
  const clamped = Math.min(last, Math.max(first, Math.round(frame)))
  if (clamped !== get().frame) set({ frame: clamped })
}

/** The Part that is selected by itself: then its pose is what is turned, moved and keyed. */
export function posedPart({ selection, document }: Pick<ShotState, 'selection' | 'document'> = get()): Part | null {
  if (selection.shapeIds.length || !selection.partId) return null
  return findObject(document, 'part', selection.partId) ?? null
}

/** What keys are made and taken away on: the selected shapes, or the pose of a Part selected by itself. */
export function selectedKeyed(): Keyed[] {
  const part = posedPart()
  return part ? [part] : selectedShapes()
}

/** The Part that is selected, or that of the selected shapes. */
export const selectedPart = ({ selection, document }: Pick<ShotState, 'selection' | 'document'> = get()) =>
  selection.partId === null ? undefined : findObject(document, 'part', selection.partId)

/** What was measured of the shapes that are selected: of a single frame only while that is shown. */
export function shownSoftness({ softness, frame, ...state }: ShotState): SoftnessReport | null {
  if (!softness || (softness.frames.length === 1 && softness.frames[0]!.frame !== frame)) return null
  const shapes = selectedShapes(state)
  const isOfThese =
    shapes.length === softness.shapeIds.length && shapes.every(({ id }) => softness.shapeIds.includes(id))
  return isOfThese ? softness : null
}

/** The same on the frame that is shown; empty where it was not looked at. */
export const measuresHere = (state: ShotState): readonly EdgeMeasure[] =>
  shownSoftness(state)
    ?.frames.find(({ frame }) => frame === state.frame)
    ?.ofShapes.flatMap(({ measures }) => measures) ?? NO_MEASURES

const NO_MEASURES: readonly EdgeMeasure[] = []

/** The shutter that was found, while shapes of the Parts that were looked at are selected. */
export function shownShutter({ shutterFound, ...state }: ShotState): ShutterReport | null {
  if (!shutterFound) return null
  return selectedShapes(state).every(({ partId }) => shutterFound.partIds.includes(partId)) ? shutterFound : null
}

/** The shapes an edit is about: those selected, or all of the selected Part. */
export function selectedShapes(state: Pick<ShotState, 'selection' | 'document'> = get()) {
  const { selection, document } = state
  if (selection.shapeIds.length) return selection.shapeIds.flatMap((id) => findObject(document, 'shape', id) ?? [])
  if (!selection.partId) return []
  return allOf(document, 'shape').filter((shape) => shape.partId === selection.partId)
}

/** Turns to a step of the job. What is handed off has a face of its own below the picture; other steps have the threads back in its place. */
export function takeStep(step: Step) {
  const { timelineFace } = get()
  const away = timelineFace === 'outputs' ? 'threads' : timelineFace
  useShot.setState({ step, timelineFace: step === 'Handoff' ? 'outputs' : away })
}
