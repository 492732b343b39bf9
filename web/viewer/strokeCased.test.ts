import { readdirSync, readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { strokeCased } from './strokeCased'

describe('lines of the viewer', () => {
  it('have a dark casing beneath them, and the line is as it was afterwards', () => {
    const strokes: [unknown, number][] = []
    const context = { strokeStyle: '#ece9e2', lineWidth: 1.4, stroke: () => void strokes.push([context.strokeStyle, context.lineWidth]) } // prettier-ignore
    strokeCased(context as unknown as CanvasRenderingContext2D)
    expect(strokes).toEqual([['rgb(18 18 18 / 0.6)', 3.4], ['#ece9e2', 1.4]]) // prettier-ignore
    expect(context).toMatchObject({ strokeStyle: '#ece9e2', lineWidth: 1.4 })
  })

  it('are all drawn with it, those of the loupe apart, which lie over its own ground', () => {
    const bare = readdirSync(import.meta.dirname)
      .filter((name) => name.endsWith('.ts') && !/test|strokeCased|loupe/.test(name))
      .filter((name) => readFileSync(`${import.meta.dirname}/${name}`, 'utf8').includes('.stroke()'))
    expect(bare).toEqual([])
  })
})
