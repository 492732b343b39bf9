import type { NumberChange } from '@tender-lasso/core/edits'

/** What is typed into a field: a number or a sum, or, after `+`, `*` or `/`, what becomes of the number that is there. */
export function typedChange(text: string): NumberChange | null {
  const [, sign, rest] = /^\s*([+*/])(.*)$/.exec(text) ?? []
  const by = computed(rest ?? text)
  if (by === null) return null
  if (!sign) return { kind: 'set', by }
  if (sign === '+') return { kind: 'add', by }
  return sign === '*' ? { kind: 'multiply', by } : by === 0 ? null : { kind: 'multiply', by: 1 / by }
}

/**
 * Value of a typed sum such as "12/2" or "3*(4-1.5)". Null when it is not one.
 * Grammar: sum = product (("+" | "-") product)*, product = factor (("*" | "/") factor)*.
 */
export function computed(text: string): number | null {
  const tokens = text.replace(',', '.').match(/\d+(\.\d+)?|\.\d+|[-+*/()]/g)
  if (!tokens || tokens.join('') !== text.replace(',', '.').replace(/\s+/g, '')) return null
  let at = 0
  const factor = (): number => {
    const token = tokens[at++]
    if (token === '-') return -factor()
    if (token === '+') return factor()
    if (token === '(') {
      const inner = sum()
      return tokens[at++] === ')' ? inner : NaN
    }
    return token === undefined ? NaN : Number(token)
  }
  const product = (): number => {
    let value = factor()
    while (tokens[at] === '*' || tokens[at] === '/') value = tokens[at++] === '*' ? value * factor() : value / factor()
    return value
  }
  const sum = (): number => {
    let value = product()
    while (tokens[at] === '+' || tokens[at] === '-')
      value = tokens[at++] === '+' ? value + product() : value - product()
    return value
  }
  const value = sum()
  return at === tokens.length && Number.isFinite(value) ? value : null
}
