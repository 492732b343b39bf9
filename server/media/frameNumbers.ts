/**
 * The frame numbers that file names carry, null where one has none. Of several runs of digits it is the one in which the
 * files differ: `shot2_v3_0007.png` beside `shot2_v3_0008.png` is frame 7, and so is `shot.0007.v2.png`.
 */
export function frameNumbersOf(names: readonly string[]): (number | null)[] {
  const split = names.map((name) => name.replace(/\.[^.]+$/, '').split(/(\d+)/))
  const [first] = split
  const areAlike = split.every(
    (tokens) => tokens.length === first!.length && tokens.every((token, i) => i % 2 === 1 || token === first![i]),
  )
  if (!areAlike || names.length < 2) return split.map(numberOf)
  const places = first!.flatMap((_, i) => (i % 2 === 1 && split.some((tokens) => tokens[i] !== first![i]) ? i : []))
  const place = places.findLast((i) => !isVersion(first!, i)) ?? places.at(-1)
  return place === undefined ? split.map(numberOf) : split.map((tokens) => Number(tokens[place]))
}

/** The frame number of a name by itself: its last run of three digits or more, or its last; versions do not count. */
function numberOf(tokens: readonly string[]): number | null {
  const places = tokens.flatMap((_, i) => (i % 2 === 1 && !isVersion(tokens, i) ? i : []))
  const place = places.findLast((i) => tokens[i]!.length >= 3) ?? places.at(-1)
  return place === undefined ? null : Number(tokens[place])
}

/** A number behind a single v: v2, _V03. */
const isVersion = (tokens: readonly string[], i: number) => /(^|[^a-z])v$/i.test(tokens[i - 1]!)
