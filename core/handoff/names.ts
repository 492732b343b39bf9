/** Letters of a file's name: long enough to tell Parts apart, short enough for any file system and for channel names. */
const LONGEST = 28

/** Letters that no accent can be taken from. */
const SPELT: Readonly<Record<string, string>> = { ß: 'ss', æ: 'ae', Æ: 'Ae', ø: 'o', Ø: 'O', œ: 'oe', Œ: 'Oe', ł: 'l', Ł: 'L', đ: 'd', Đ: 'D', þ: 'th', Þ: 'Th' } // prettier-ignore

/** A name in letters without accents, digits, _ and - only: safe as a file and as a channel. Empty where nothing of it is left. */
export function fileNameOf(name: string): string {
  return name
    .replace(/[ßæÆøØœŒłŁđĐþÞ]/g, (letter) => SPELT[letter]!)
    .normalize('NFKD')
    .replace(/\p{Mark}/gu, '')
    .replace(/[^A-Za-z0-9-]+/g, '_')
    .replace(/^_+|_+$/g, '')
    .slice(0, LONGEST)
    .replace(/_+$/, '')
}

/**
 * File names for things with these names, no two alike, not even in letters of another case: some file systems do not tell those apart.
 *
 * @param otherwise  what something is called of whose name nothing is left
 */
export function distinctNames(names: readonly string[], otherwise: string): string[] {
  const taken = new Set<string>()
  return names.map((name) => {
    const safe = fileNameOf(name) || otherwise
    let distinct = safe
    for (let n = 2; taken.has(distinct.toLowerCase()); n++) {
      const tail = `_${n}`
      distinct = safe.slice(0, LONGEST - tail.length) + tail
    }
    taken.add(distinct.toLowerCase())
    return distinct
  })
}

/** What the words of a pattern stand for in one file. */
export interface NameWords {
  shot: string
  output: string
  part: string
  version: number
  frame: number
}

/** A version as names and screens have it: v and three digits at least. */
export const versionWord = (version: number) => `v${String(version).padStart(3, '0')}`

/** A pattern with its words filled in; frames have `padding` digits at least, versions three. */
export function nameFrom(pattern: string, { shot, output, part, version, frame }: NameWords, padding: number): string {
  const digits = String(Math.abs(frame)).padStart(padding, '0')
  const words: Record<string, string> = {
    shot: fileNameOf(shot) || 'shot',
    output: fileNameOf(output) || 'output',
    part,
    version: versionWord(version),
    frame: frame < 0 ? `-${digits}` : digits,
  }
  return pattern.replace(/\{(\w+)\}/g, (whole, word: string) => words[word] ?? whole)
}
