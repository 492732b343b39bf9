import { api, pictureFrom, whileOpen, wordsOf } from '../session'
import { say, setView, useShot, type DeliveredMatteShown, type DeliveryShown, type ShotState } from '../store'

/** What is looked at of a delivery's manifest. */
interface ManifestSeen {
  mattes: DeliveryShown['mattes']
  output: { scale: number }
}

/** Has a delivery be looked at in the viewer. */
export async function showDelivery(jobId: string, name: string) {
  const isOpen = whileOpen()
  try {
    const { mattes, output } = await api<ManifestSeen>(`/api/exports/${jobId}`)
    if (!isOpen()) return
    if (mattes.length === 0) return say('doubtful', `${name} holds no matte`)
    setView({ delivery: { jobId, name, mattes, scale: output.scale, isCompared: true } })
  } catch (error) {
    say('bad', wordsOf(error))
  }
}

/** The matte of the selected Part, or the first one. */
export function matteShown({ mattes }: DeliveryShown, { selection }: ShotState) {
  return mattes.find(({ partId }) => partId === selection.partId) ?? mattes[0]!
}

/** Keeps the matte of the delivery that is looked at known, on the present frame and against what was edited since. Returns what ends it. */
export function watchDelivery(): () => void {
  let asked: AbortController | null = null
  const forget = () => {
    asked?.abort()
    asked = null
  }
  const look = (now: ShotState, delivery: DeliveryShown) => {
    forget()
    const own = new AbortController()
    asked = own
    void deliveredMatte(delivery, now, own.signal).then((found) => {
      if (asked === own) put(found)
      else found.picture?.close()
    })
  }
  const stop = useShot.subscribe((now, before) => {
    const { delivery } = now.view
    if (!delivery) {
      forget()
      if (now.deliveredMatte) put(null)
      return
    }
    // What is compared with is what the server has.
    const isReady = !delivery.isCompared || now.saveState === 'saved'
    const isSame =
      delivery === before.view.delivery &&
      now.frame === before.frame &&
      now.selection.partId === before.selection.partId &&
      now.isPlaying === before.isPlaying &&
      (!delivery.isCompared || (now.document === before.document && now.saveState === before.saveState))
    if (!isSame && isReady && !now.isPlaying) look(now, delivery)
  })
  return () => {
    stop()
    forget()
  }
}

function put(deliveredMatte: DeliveredMatteShown | null) {
  const { deliveredMatte: before } = useShot.getState()
  useShot.setState({ deliveredMatte })
  before?.picture?.close()
}

/** What is there to be shown, or why nothing is; never rejects. */
async function deliveredMatte(
  delivery: DeliveryShown,
  now: ShotState,
  signal: AbortSignal,
): Promise<DeliveredMatteShown> {
  const { jobId, isCompared } = delivery
  const { frame } = now
  const matte = matteShown(delivery, now)
  const about = { jobId, isCompared, matte, frame }
  const address = `/api/exports/${jobId}/mattes/${matte.partId}/${frame}${isCompared ? '?against=now' : ''}`
  try {
    const { picture, headers } = await pictureFrom(address, signal)
    const number = (name: string) => Number(headers.get(name))
    const difference = isCompared
      ? { differing: number('Differing-Pixels'), largest: number('Largest-Difference') }
      : null
    return { ...about, picture, trouble: null, difference }
  } catch (error) {
    return { ...about, picture: null, trouble: wordsOf(error), difference: null }
  }
}
