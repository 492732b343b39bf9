import { api, pictureFrom, wordsOf } from '../session'
import { say, setView, useShot, type DeliveredMatteShown, type DeliveryShown, type ShotState } from '../store'

/** Has a delivery be looked at in the viewer. */
export async function showDelivery(jobId: string, name: string) {
  try {
    const { mattes } = await api<Pick<DeliveryShown, 'mattes'>>(`/api/exports/${jobId}`)
    if (mattes.length === 0) return say('doubtful', `${name} holds no matte`)
    setView({ delivery: { jobId, name, mattes, isCompared: true } })
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
    void deliveredMatte(delivery, now, own.signal)
      .then((deliveredMatte) => {
        if (asked === own) put(deliveredMatte)
        else deliveredMatte.picture.close()
      })
      .catch((error: unknown) => {
        if (asked !== own) return
        put(null)
        setView({ delivery: null })
        say('doubtful', wordsOf(error))
      })
  }
  const stop = useShot.subscribe((now, before) => {
    const { delivery } = now.view
    if (!delivery) {
      forget()
      if (now.deliveredMatte) put(null)
      return
    }
    const isSame =
      delivery === before.view.delivery &&
      now.frame === before.frame &&
      now.selection.partId === before.selection.partId &&
      // What is compared with is what the server has.
      (!delivery.isCompared || (now.document === before.document && now.saveState === before.saveState))
    if (!isSame && now.saveState === 'saved' && !now.isPlaying) look(now, delivery)
  })
  return () => {
    stop()
    forget()
  }
}

function put(deliveredMatte: DeliveredMatteShown | null) {
  const { deliveredMatte: before } = useShot.getState()
  useShot.setState({ deliveredMatte })
  before?.picture.close()
}

async function deliveredMatte(
  delivery: DeliveryShown,
  now: ShotState,
  signal: AbortSignal,
): Promise<DeliveredMatteShown> {
  const { jobId, isCompared } = delivery
  const { frame } = now
  const matte = matteShown(delivery, now)
  const against = isCompared ? '?against=now' : ''
  const { picture, headers } = await pictureFrom(
    `/api/exports/${jobId}/mattes/${matte.partId}/${frame}${against}`,
    signal,
  )
  const number = (name: string) => Number(headers.get(name))
  const difference = isCompared
    ? { differing: number('Differing-Pixels'), largest: number('Largest-Difference') }
    : null
  return { jobId, isCompared, matte, frame, picture, difference }
}
