/** `1 key`, `2 keys`: a count with what it counts, for words whose plural takes an s. */
export const counted = (count: number, word: string) => `${count} ${word}${count === 1 ? '' : 's'}`
