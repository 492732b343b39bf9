/** Milliseconds from one time to the next at least, and times as long as showing it took. */
const LEAST_WAIT_MS = 120
const SHOWING_SHARE = 4

export interface NewsShowing {
  /** There is something new to see. */
  hasNews(): void
  /** Nothing is shown any more. */
  end(): void
}

/**
 * Shows how long work goes on, a few times a second and the less often the longer showing it takes: a picture of many
 * tracks costs more than tracking their frame. Just before the end, which shows all, it would only hold that up.
 *
 * @param msLeft  milliseconds of work that are left, about
 */
export function showingNews(show: () => void, msLeft: () => number): NewsShowing {
  let hasEnded = false
  let isShowing = false
  let hasNews = false
  /** Milliseconds from deciding to show the last one to its being on screen. */
  let lastTook = 0
  const next = () => {
    if (hasEnded || isShowing || !hasNews || msLeft() < lastTook) return
    isShowing = true
    hasNews = false
    requestAnimationFrame(showNow)
  }
  const showNow = () => {
    if (hasEnded) return
    const began = performance.now()
    show()
    // What was drawn is on screen by the second frame after this one. A timer waits: display frames asked for meanwhile cost as much as a tenth of the run.
    requestAnimationFrame(() =>
      requestAnimationFrame((shown) => {
        lastTook = shown - began
        setTimeout(
          () => {
            isShowing = false
            next()
          },
          Math.max(LEAST_WAIT_MS, SHOWING_SHARE * lastTook),
        )
      }),
    )
  }
  return {
    hasNews() {
      hasNews = true
      next()
    },
    end: () => void (hasEnded = true),
  }
}
