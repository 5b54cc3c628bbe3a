import OpenSeadragon from 'openseadragon'
import { onBeforeUnmount, onMounted, ref, shallowRef, watch, type Ref } from 'vue'
import { affineFrom, topLevel, uprightTurn, type Matrix } from '@/shared/lib/geometry'
import { toneFilter, type Tone } from '@/shared/lib/tones'

interface Picture {
  base: string
  width: number
  height: number
  tilePx: number
  orientation: number
  /** Whether the tiles are made yet; until then the marks lie on plain grey. */
  pictured: boolean
  tone: Ref<Tone>
  gain: Ref<number>
}

/** One light grey pixel. */
const PLAIN = 'data:image/gif;base64,R0lGODlhAQABAIAAAL+/vwAAACwAAAAAAQABAAACAkQBADs='

export interface Seen {
  x: number
  y: number
  zoom: number
  aspect: number
}

/** Deep zoom over one frame; gives the matrix from image pixels to screen pixels. */
export function useViewer(stage: Ref<HTMLElement | null>, picture: Picture) {
  const matrix = shallowRef<Matrix | null>(null)
  const ready = ref(false)
  let viewer: OpenSeadragon.Viewer | null = null

  function source(tone: Tone): OpenSeadragon.TileSourceOptions {
    return {
      width: picture.width,
      height: picture.height,
      tileSize: picture.tilePx,
      tileOverlap: 0,
      minLevel: 0,
      maxLevel: picture.pictured ? topLevel(picture.width, picture.height) : 0,
      getTileUrl: (level: number, x: number, y: number) =>
        picture.pictured ? `${picture.base}/${tone}/${level}/${x}_${y}.jpg` : PLAIN,
    } as OpenSeadragon.TileSourceOptions
  }

  function place(): void {
    const item = viewer?.world.getItemAt(0)
    if (!viewer || !item) return
    const at = (x: number, y: number) =>
      viewer?.viewport.pixelFromPoint(item.imageToViewportCoordinates(x, y), true) ??
      new OpenSeadragon.Point(0, 0)
    matrix.value = affineFrom(
      mirrored(at(0, 0)),
      mirrored(at(picture.width, 0)),
      mirrored(at(0, picture.height)),
      picture.width,
      picture.height,
    )
  }

  function mirrored(point: OpenSeadragon.Point): OpenSeadragon.Point {
    if (!viewer?.viewport.getFlip()) return point
    return new OpenSeadragon.Point(viewer.viewport.getContainerSize().x - point.x, point.y)
  }

  function applyTone(): void {
    const canvas = stage.value?.querySelector('canvas')
    if (canvas) canvas.style.filter = toneFilter(picture.tone.value, picture.gain.value)
  }

  onMounted(() => {
    if (!stage.value) return
    const { degrees, flip } = uprightTurn(picture.orientation)
    viewer = new OpenSeadragon.Viewer({
      element: stage.value,
      tileSources: source(picture.tone.value),
      drawer: 'canvas',
      showNavigationControl: false,
      animationTime: 0.35,
      degrees,
      maxZoomPixelRatio: 6,
      visibilityRatio: 0.6,
      gestureSettingsMouse: { clickToZoom: false },
    })
    viewer.viewport.setFlip(flip)
    viewer.addHandler('open', () => {
      ready.value = true
      applyTone()
      place()
    })
    viewer.addHandler('update-viewport', place)
    viewer.addHandler('resize', place)
  })

  onBeforeUnmount(() => viewer?.destroy())

  watch(picture.tone, (tone) => {
    const old = viewer?.world.getItemAt(0)
    viewer?.addTiledImage({
      tileSource: source(tone),
      index: 1,
      success: () => {
        if (old) viewer?.world.removeItem(old)
        applyTone()
        place()
      },
    })
  })
  watch(picture.gain, applyTone)

  function zoomBy(factor: number): void {
    viewer?.viewport.zoomBy(factor)
    viewer?.viewport.applyConstraints()
  }

  function home(): void {
    viewer?.viewport.goHome()
  }

  /** Bring an image point to the middle when it is out of sight. */
  function lookAt(x: number, y: number): void {
    const item = viewer?.world.getItemAt(0)
    if (!viewer || !item) return
    const point = item.imageToViewportCoordinates(x, y)
    if (!viewer.viewport.getBounds().containsPoint(point)) viewer.viewport.panTo(point)
  }

  /** What part of the frame is seen, in shares of its width. */
  function seen(): Seen | null {
    const item = viewer?.world.getItemAt(0)
    if (!viewer || !item) return null
    const centre = viewer.viewport.getCenter(true)
    return {
      x: centre.x,
      y: centre.y,
      zoom: viewer.viewport.getZoom(true),
      aspect: picture.height / picture.width,
    }
  }

  /** When the place it is shown in grows or shrinks. */
  function onResize(run: () => void): void {
    viewer?.addHandler('after-resize', run)
  }

  function onMove(run: () => void): void {
    viewer?.addHandler('update-viewport', run)
  }

  /** Look at the same part as another viewer, at once. */
  function lookAs(part: { x: number; y: number; zoom: number }): void {
    const now = seen()
    if (!viewer || !now) return
    if (
      Math.abs(now.x - part.x) + Math.abs(now.y - part.y) < 1e-5 &&
      Math.abs(now.zoom / part.zoom - 1) < 1e-4
    )
      return
    viewer.viewport.zoomTo(part.zoom, undefined, true)
    viewer.viewport.panTo(new OpenSeadragon.Point(part.x, part.y), true)
  }

  return { matrix, ready, zoomBy, home, lookAt, place: seen, onMove, onResize, lookAs }
}
