import { describe, expect, it } from 'vitest'
import { computed, typedChange } from './computed'

describe('computed numbers', () => {
  it('follow the rules of arithmetic', () => {
    expect(computed('12/2')).toBe(6)
    expect(computed('3*(4-1.5)')).toBe(7.5)
    expect(computed('-2+ 10')).toBe(8)
    expect(computed('1-2-3')).toBe(-4)
    expect(computed('0,5')).toBe(0.5)
  })

  it('are null for what is not a sum', () => {
    for (const text of ['', 'abc', '1/0', '2*', '(1', '1 px']) expect(computed(text)).toBeNull()
  })
})

describe('what is typed into a field', () => {
  it('is the number itself, or what becomes of the one that is there', () => {
    expect(typedChange('4')).toEqual({ kind: 'set', by: 4 })
    expect(typedChange('-4')).toEqual({ kind: 'set', by: -4 })
    expect(typedChange(' +2')).toEqual({ kind: 'add', by: 2 })
    expect(typedChange('+-2/4')).toEqual({ kind: 'add', by: -0.5 })
    expect(typedChange('*1.5')).toEqual({ kind: 'multiply', by: 1.5 })
    expect(typedChange('/4')).toEqual({ kind: 'multiply', by: 0.25 })
    for (const text of ['+', '*', '/0', '*x', '']) expect(typedChange(text)).toBeNull()
  })
})
