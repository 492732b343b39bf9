import { signedArea } from '@tender-lasso/core/geometry'
import type { ScenePart } from '@tender-lasso/core/raster'
import { flattenOutline } from '@tender-lasso/core/spline'
import {
  cubicOutline,
  isWithin,
  orderOver,
  reversedCorners,
  softnessOf,
  type OutlinesOfShot,
  type WrittenOutlines,
} from '../outlines'
import { pathData, ROUNDING } from './pathData'

/**
 * The outlines of a shot at mid-shutter as SVG, each Part a group of its name, the nearest last; one unit is a pixel of the plate, y runs down. Of several frames
 * the paths are animated, frame by frame, in the order of depth of the first one.
 *
 * A Part whose layers only add is its plain paths. Of any other what the layers make of each other stands in a mask: white adds, black takes away, the rest by
 * blending.
 */
export function writeSvg(shot: OutlinesOfShot): WrittenOutlines {
  const writer = new Writer(shot)
  const text = writer.document()
  return { text, deviation: writer.deviation, lost: [...writer.lost] }
}

type Layer = ScenePart['groups'][number]

class Writer {
  deviation = 0
  readonly lost = new Set<string>()

  constructor(private readonly shot: OutlinesOfShot) {}

  document(): string {
    const { title, width, height, pixelAspect, frames } = this.shot
    const orders = frames.map(({ scene }) => scene.parts.map(({ id }) => id))
    const ids = orderOver(orders)
    if (orders.some((order) => !isWithin(order, ids))) this.lost.add('changes of depth')
    const parts = ids.map((id, i) => this.part(id, `m${i + 1}`)).reverse()
    const from = frames[0]?.frame ?? 0
    const to = frames.at(-1)?.frame ?? from
    return [
      '<?xml version="1.0" encoding="UTF-8"?>',
      `<svg xmlns="http://www.w3.org/2000/svg" width="${width * pixelAspect}" height="${height}" viewBox="0 0 ${width} ${height}" preserveAspectRatio="none">`,
      `<title>${escaped(title)}, ${from === to ? from : `${from} to ${to}`}</title>`,
      ...parts,
      '</svg>',
      '',
    ].join('\n')
  }

  private part(id: string, mask: string): string {
    const { name, colour } = this.shot.nameOf(id)
    const onFrames = this.shot.frames.map(({ scene }) => scene.parts.find((part) => part.id === id))
    const most = Math.max(0, ...onFrames.map((part) => part?.groups.length ?? 0))
    const operations = Array.from(
      { length: most },
      (_, g) => onFrames.find((part) => part?.groups[g])?.groups[g]?.operation ?? 'add',
    )
    onFrames.forEach((part) => part && softnessOf(part).forEach((words) => this.lost.add(words)))
    const layers = operations.map((operation, g) => ({
      operation: g === 0 ? 'add' : operation,
      path: this.path(onFrames.map((part) => part?.groups[g])),
    }))
    const opacity = onFrames.find((part) => part)?.finish?.opacity ?? 1
    const group = `<g id="${escaped(name)}" fill="${colour}"${opacity === 1 ? '' : ` opacity="${opacity}"`}`
    if (layers.every(({ operation }) => operation === 'add')) {
      return `${group}>\n${layers.map(({ path }) => `<path${path('')}`).join('\n')}\n</g>`
    }
    const { width, height } = this.shot
    const whole = `width="${width}" height="${height}"`
    const content = layers.map(({ operation, path }) => {
      if (operation === 'intersect')
        return `<g style="mix-blend-mode:multiply"><rect ${whole} fill="#000"/><path${path(' fill="#fff"')}</g>`
      if (operation === 'difference') return `<path style="mix-blend-mode:difference"${path(' fill="#fff"')}`
      return `<path${path(operation === 'subtract' ? ' fill="#000"' : ' fill="#fff"')}`
    })
    return [
      `<mask id="${mask}" maskUnits="userSpaceOnUse" x="0" y="0" ${whole}><g style="isolation:isolate"><rect ${whole} fill="#000"/>`,
      ...content,
      `</g></mask>`,
      `${group} mask="url(#${mask})"><rect ${whole}/></g>`,
    ].join('\n')
  }

  /** The rest of a path element from its attributes on, given what fills it. */
  private path(onFrames: readonly (Layer | undefined)[]): (fill: string) => string {
    const data = onFrames.map((layer) => (layer ? this.data(layer) : ''))
    const opacity = onFrames.find((layer) => layer)?.opacity ?? 1
    const seen = opacity === 1 ? '' : ` fill-opacity="${opacity}"`
    const [first] = data
    if (data.every((one) => one === first)) return (fill) => `${fill}${seen} d="${first}"/>`
    const { numerator, denominator } = this.shot.rate
    const seconds = (data.length * denominator) / numerator
    // A frame without it has a point of no area: an empty value would keep the one before.
    const values = data.map((one) => one || 'M0 0Z').join(';')
    return (fill) =>
      `${fill}${seen} d="${first}"><animate attributeName="d" dur="${seconds}s" calcMode="discrete" repeatCount="indefinite" values="${values}"/></path>`
  }

  /** All outlines of a layer run the same way round, so that where they overlap they are one. */
  private data(layer: Layer): string {
    return layer
      .outlinesAt(0.5)
      .map((outline) => {
        const { corners, deviation } = cubicOutline(outline)
        this.deviation = Math.max(this.deviation, deviation + ROUNDING)
        return pathData(signedArea(flattenOutline(outline, 0.5)) < 0 ? reversedCorners(corners) : corners)
      })
      .join('')
  }
}

const ENTITIES: Readonly<Record<string, string>> = {
  '&': '&amp;',
  '<': '&lt;',
  '>': '&gt;',
  '"': '&quot;',
  "'": '&apos;',
}

const escaped = (text: string) => text.replace(/[&<>"']/g, (letter) => ENTITIES[letter]!)
