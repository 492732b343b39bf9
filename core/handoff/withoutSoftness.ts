import type { Scene } from '../raster'

/** A scene without the feather or without the focus blur of its shapes, for who adds them downstream. What was grown stays grown. */
export function withoutSoftness(scene: Scene, { feather, focus }: { feather: boolean; focus: boolean }): Scene {
  if (feather && focus) return scene
  return {
    ...scene,
    parts: scene.parts.map((part) => ({
      ...part,
      groups: part.groups.map((group) => ({
        ...group,
        ...(!feather && { edge: { ...group.edge, innerFeather: 0, outerFeather: 0 }, wideOutlinesAt: undefined }),
        ...(!focus && { focus: undefined, focusedOutlines: undefined }),
      })),
    })),
  }
}
