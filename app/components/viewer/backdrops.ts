/** What is shown behind. Drawn in the screen's own pixels, so that a checker stays a checker at any zoom. */
import type { Box } from '~~/core/base/settings/box'

export const BACKDROPS = [
  { id: 'checker', name: 'checker' },
  { id: 'fine-checker', name: 'fine checker' },
  { id: 'black', name: 'black' },
  { id: 'white', name: 'white' },
  { id: 'grey', name: 'mid grey' },
  { id: 'colour', name: 'colour' },
  { id: 'picture', name: 'picture' },
  { id: 'moving', name: 'moving clip' },
  { id: 'own', name: 'a source of the job' }
] as const
export type Backdrop = (typeof BACKDROPS)[number]['id']

function checker(context: CanvasRenderingContext2D, box: Box, size: number): void {
  context.fillStyle = '#ffffff'
  context.fillRect(box.x, box.y, box.width, box.height)
  context.fillStyle = '#cbcbcb'
  context.beginPath()
  for (let y = 0; y * size < box.height; y++) {
    for (let x = y % 2; x * size < box.width; x += 2) {
      context.rect(
        box.x + x * size,
        box.y + y * size,
        Math.min(size, box.width - x * size),
        Math.min(size, box.height - y * size)
      )
    }
  }
  context.fill()
}

/**
 * A glasshouse at dusk in a few strokes: light above, foliage below, ribs across. `shift` moves it sideways, 0 to 1.
 */
function scenery(context: CanvasRenderingContext2D, box: Box, shift: number): void {
  const { x, y, width, height } = box
  const sky = context.createLinearGradient(x, y, x, y + height)
  sky.addColorStop(0, '#27405e')
  sky.addColorStop(0.55, '#d9a06a')
  sky.addColorStop(1, '#20341f')
  context.fillStyle = sky
  context.fillRect(x, y, width, height)
  for (let i = -1; i < 9; i++) {
    const left = x + (((i + shift * 4) % 9) - 0.5) * (width / 7)
    context.fillStyle = i % 2 ? '#2f5a33' : '#1c3a2a'
    context.beginPath()
    context.ellipse(left, y + height, width / 9, height * (0.28 + 0.1 * ((i * i) % 3)), 0, 0, Math.PI * 2)
    context.fill()
    context.fillStyle = 'rgb(240 236 220 / 55%)'
    context.fillRect(left + width / 14, y, Math.max(1, width / 160), height)
  }
}

/**
 * What stands behind: the colour of the backdrop that has one, the seconds that move the moving clip, and the job's own
 * picture.
 */
export interface Behind {
  backdrop: Backdrop
  colour: string
  time: number
  own: ImageBitmap | null
}

/** The picture over black, as large as fills the box. */
function filling(context: CanvasRenderingContext2D, picture: ImageBitmap | null, box: Box): void {
  context.fillStyle = '#000000'
  context.fillRect(box.x, box.y, box.width, box.height)
  if (!picture) return
  const by = Math.max(box.width / picture.width, box.height / picture.height)
  const [w, h] = [picture.width * by, picture.height * by]
  context.drawImage(picture, box.x + (box.width - w) / 2, box.y + (box.height - h) / 2, w, h)
}

/** Fills the box. */
export function drawBackdrop(
  context: CanvasRenderingContext2D,
  box: Box,
  { backdrop, colour, time, own }: Behind
): void {
  context.save()
  context.beginPath()
  context.rect(box.x, box.y, box.width, box.height)
  context.clip()
  if (backdrop === 'checker' || backdrop === 'fine-checker')
    checker(context, box, (backdrop === 'checker' ? 12 : 5) * window.devicePixelRatio)
  else if (backdrop === 'own') filling(context, own, box)
  else if (backdrop === 'picture' || backdrop === 'moving')
    scenery(context, box, backdrop === 'moving' ? (time / 8) % 1 : 0)
  else {
    context.fillStyle =
      backdrop === 'black' ? '#000000' : backdrop === 'white' ? '#ffffff' : backdrop === 'grey' ? '#808080' : colour
    context.fillRect(box.x, box.y, box.width, box.height)
  }
  context.restore()
}
