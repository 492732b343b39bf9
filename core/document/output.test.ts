import { describe, expect, it } from 'vitest'
import { NEW_OUTPUT_FIELDS, notesFromText, outputSchema, textOfNotes } from './output'

describe('notes of an output', () => {
  it('are lines of name = value; what stands behind the first = is the value', () => {
    const notes = notesFromText('show = Wick Street\n\n  asked-by=comp = 2 ')
    expect(notes).toEqual([
      { name: 'show', value: 'Wick Street' },
      { name: 'asked-by', value: 'comp = 2' },
    ])
    expect(notesFromText(textOfNotes(notes as { name: string; value: string }[]))).toEqual(notes)
    expect(notesFromText('')).toEqual([])
  })

  it.each([
    ['show', 'says something'],
    ['2nd = x', 'begins with a letter'],
    ['a b = x', 'begins with a letter'],
    ['dataWindow = x', 'of their own'],
    ['Shot = x', 'of their own'],
    ['a = 1\nA = 2', 'one name'],
    [Array.from({ length: 21 }, (_, i) => `n${i} = x`).join('\n'), 'at most 20'],
  ])('%j is refused in words', (text, words) => {
    expect(notesFromText(text)).toContain(words)
  })

  it('outputs from before there were any have none, and primaries of Rec. 709', () => {
    const { notes: _, primaries: __, ...before } = NEW_OUTPUT_FIELDS
    expect(outputSchema.parse({ ...before, id: 'o', name: 'Mattes', order: 0 })).toMatchObject({ notes: [], primaries: 'bt709' }) // prettier-ignore
  })
})
