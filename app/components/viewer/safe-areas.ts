/** Safe areas over a picture. */
import { SAFE_AREAS } from '~~/core/base/safe-areas'
import type { Box } from '~~/core/base/settings/box'

const CROSS = 12

/** Draws both areas and the middle over a picture, light over dark, so that they show over anything. */
export function drawSafeAreas(context: CanvasRenderingContext2D, { x, y, width, height }: Box): void {
  const ratio = window.devicePixelRatio
  const [middleX, middleY] = [Math.round(x + width / 2), Math.round(y + height / 2)]
  context.save()
  for (const [style, wide] of [
    ['rgb(0 0 0 / 60%)', 3],
    ['#ffffff', 1]
  ] as const) {
    context.strokeStyle = style
    context.lineWidth = wide * ratio
    context.beginPath()
    for (const share of SAFE_AREAS) {
      const [w, h] = [Math.round(width * share), Math.round(height * share)]
      context.rect(Math.round(x + (width - w) / 2) + 0.5, Math.round(y + (height - h) / 2) + 0.5, w, h)
    }
    context.moveTo(middleX - CROSS * ratio, middleY + 0.5)
    context.lineTo(middleX + CROSS * ratio, middleY + 0.5)
    context.moveTo(middleX + 0.5, middleY - CROSS * ratio)
    context.lineTo(middleX + 0.5, middleY + CROSS * ratio)
    context.stroke()
  }
  context.restore()
}
