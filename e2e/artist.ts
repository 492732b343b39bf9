import { readFileSync } from 'node:fs'
import path from 'node:path'
import { expect, type Locator, type Page } from '@playwright/test'
import { decodeObjects, type RotoDocument } from '@tender-lasso/core/document'
import { DATA_FOLDER } from './playwright.config'

/** First frame of the demonstration. */
export const FIRST = 1001

/** What the demonstration knows about itself. */
export interface Truth {
  width: number
  height: number
  parts: { id: string; outlines: number[][] }[]
  surfaces: { id: string; referenceOutline: number[]; homographies: number[][] }[]
  features: { surface: string; positions: number[][]; visible: boolean[] }[]
}

export const DEMO_FOLDER = path.join(DATA_FOLDER, 'demo', 'ws_010')
export const truth = (): Truth =>
  JSON.parse(readFileSync(path.join(DEMO_FOLDER, 'truth', 'truth.json'), 'utf8')) as Truth

/**
 * A person at the workspace: acts only by pointer and keys, and keeps in mind how the picture is zoomed, as an artist
 * sees it.
 */
export class Artist {
  /** Clicks, drags and keys so far. */
  acts = 0
  private view = { zoom: 1, panX: 0, panY: 0, left: 0, top: 0, width: 0, height: 0 }

  constructor(
    readonly page: Page,
    private readonly plateWidth: number,
    private readonly plateHeight: number,
  ) {}

  get viewer(): Locator {
    return this.page.getByTestId('viewer')
  }

  /** The topmost layer of the picture, which tells what is painted. */
  private get picture(): Locator {
    return this.page.getByTestId('picture')
  }

  private async zoomSeen(): Promise<number> {
    return Number(await this.picture.getAttribute('data-zoom'))
  }

  async openShot(name: string) {
    await this.page.goto('/')
    await this.page.getByRole('link', { name: `Open ${name}` }).click()
    await this.settle()
  }

  /** Waits for the workspace and fits the plate. */
  async settle() {
    await expect(this.page.getByTestId('frame')).toBeVisible()
    await expect(this.picture).toHaveAttribute('data-zoom', /./)
    await this.fit()
  }

  /** The plate whole in the viewer, however large that is once all panels have their places. */
  async fit() {
    await this.key('f')
    await expect(async () => {
      const box = (await this.viewer.boundingBox())!
      const zoom = Math.min((box.width - 12) / this.plateWidth, (box.height - 12) / this.plateHeight)
      if (Math.abs(zoom - (await this.zoomSeen())) > 1e-4) await this.page.keyboard.press('f')
      expect(await this.zoomSeen()).toBeCloseTo(zoom, 4)
    }).toPass()
    const box = (await this.viewer.boundingBox())!
    const zoom = await this.zoomSeen()
    this.view = {
      zoom,
      panX: (box.width - this.plateWidth * zoom) / 2,
      panY: (box.height - this.plateHeight * zoom) / 2,
      left: box.x,
      top: box.y,
      width: box.width,
      height: box.height,
    }
  }

  /** Zooms with the wheel so that a plate position is seen large, under the pointer. */
  async zoomTo(x: number, y: number, zoom: number) {
    const [sx, sy] = this.place(x, y)
    await this.page.mouse.move(sx, sy)
    const delta = Math.round(-Math.log(zoom / this.view.zoom) / 0.0015)
    await this.page.mouse.wheel(0, delta)
    const ratio = Math.exp(-delta * 0.0015)
    const [px, py] = [sx - this.view.left, sy - this.view.top]
    this.view = {
      ...this.view,
      zoom: this.view.zoom * ratio,
      panX: px - (px - this.view.panX) * ratio,
      panY: py - (py - this.view.panY) * ratio,
    }
    await expect.poll(() => this.zoomSeen()).toBeCloseTo(this.view.zoom, 4)
  }

  /** Screen pixel nearest to a plate position: a pointer stands on whole pixels. */
  place(x: number, y: number): [number, number] {
    const { zoom, panX, panY, left, top } = this.view
    return [Math.round(left + panX + x * zoom), Math.round(top + panY + y * zoom)]
  }

  async key(keys: string) {
    this.acts++
    await this.page.keyboard.press(keys)
  }

  async click(x: number, y: number) {
    this.acts++
    await this.page.mouse.click(...this.place(x, y))
  }

  /** A drag from one plate position to another. */
  async drag(fromX: number, fromY: number, toX: number, toY: number) {
    this.acts++
    await this.page.mouse.move(...this.place(fromX, fromY))
    await this.page.mouse.down()
    const steps = 2
    for (let i = 1; i <= steps; i++) {
      await this.page.mouse.move(
        ...this.place(fromX + ((toX - fromX) * i) / steps, fromY + ((toY - fromY) * i) / steps),
      )
    }
    await this.page.mouse.up()
  }

  /** A freehand stroke through plate positions. */
  async stroke(points: readonly number[]) {
    this.acts++
    await this.page.mouse.move(...this.place(points[0]!, points[1]!))
    await this.page.mouse.down()
    for (let i = 2; i < points.length; i += 2) await this.page.mouse.move(...this.place(points[i]!, points[i + 1]!))
    await this.page.mouse.up()
  }

  /** The document as it is stored, once all acts are. */
  async storedDocument(): Promise<RotoDocument> {
    await this.saved()
    return this.documentOf(this.shotId)
  }

  /** The open shot's, as its address says. */
  get shotId(): string {
    return this.page.url().split('/').at(-1)!
  }

  /** What the server has of a shot by now. */
  async documentOf(shotId: string): Promise<RotoDocument> {
    const answer = await this.page.request.get(`/api/shots/${shotId}/document`)
    const objects = decodeObjects(new Uint8Array(await answer.body()))
    return { objects: new Map(objects.map((object) => [object.id, object])) }
  }

  async step(name: string) {
    this.acts++
    await this.page.getByRole('navigation', { name: 'Steps' }).getByRole('button', { name }).click()
  }

  async goTo(frame: number) {
    for (let guard = 0; guard < 200; guard++) {
      const at = Number(await this.page.getByTestId('frame').textContent())
      if (at === frame) return
      const far = Math.abs(frame - at) >= 10 ? 'Shift+' : ''
      await this.key(`${far}Arrow${frame > at ? 'Right' : 'Left'}`)
    }
    throw new Error(`Frame ${frame} was not reached`)
  }

  /** Marks a stretch of the timeline of a shot of so many frames, which count from 1001. */
  async mark(first: number, last: number, frames: number) {
    this.acts++
    const box = (await this.page.getByTestId('timeline').boundingBox())!
    const x = (frame: number) => box.x + 132 + ((frame - 1001 + 0.5) / frames) * (box.width - 132 - 14)
    await this.page.keyboard.down('Shift')
    await this.page.mouse.move(x(first), box.y + 8)
    await this.page.mouse.down()
    await this.page.mouse.move(x(last), box.y + 8, { steps: 3 })
    await this.page.mouse.up()
    await this.page.keyboard.up('Shift')
  }

  /** A number typed into a field of the properties. */
  async type(label: string, value: number | string) {
    this.acts++
    const field = this.page.getByLabel(label, { exact: true })
    await field.click()
    await field.fill(String(value))
    await field.press('Enter')
  }

  async saved() {
    await expect(this.page.getByTestId('save-state')).toHaveText('saved')
  }

  message(): Locator {
    return this.page.getByTestId('message')
  }
}
