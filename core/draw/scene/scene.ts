/**
 * A scene: an animation that Pour renders itself. Plain data, in a job or in a file of its own; the first element lies
 * in front. Lengths are pixels of the scene, angles degrees clockwise, times seconds.
 */
import { z } from 'zod'
import { HexColour } from '../../base/colour'
import type { Choice } from '../../base/settings/field'
import { Rate } from '../../base/rate'
import { ElementBase } from './element'
import type { Offers } from './elements/kind'
import { kindOf, Look } from './elements/kinds'
import { FACES } from '../type/faces'
import { lacking, MOST, OwnFace, share } from './values'

export const Element = ElementBase.extend({ look: Look })
export type Element = z.infer<typeof Element>

/** The type faces that a look is lettered in, its own first. */
export const facesOf = (look: Look): string[] =>
  kindOf(look)
    .lettered?.(look)
    .map(({ face }) => face) ?? []

export const Span = z.object({
  name: z.string().min(1).max(60),
  from: z.number().int().min(1),
  to: z.number().int().min(1)
})

export const Scene = z
  .object({
    pour: z.literal('scene'),
    version: z.literal(1),
    name: lacking(z.string().min(1).max(80), 'scene'),
    width: z.number().int().min(1).max(MOST.side),
    height: z.number().int().min(1).max(MOST.side),
    rate: lacking(Rate, [25, 1]),
    frames: z.number().int().min(1).max(MOST.frames),
    /** What lies behind everything, which makes alpha solid; null for none. */
    backdrop: lacking(HexColour.nullable(), null),
    /**
     * Moments of one frame that are laid together, and for how much of the frame's time the picture is open: from the
     * time of the frame on, or with that time in the middle.
     */
    blur: lacking(
      z.object({
        moments: lacking(z.number().int().min(1).max(64), 1),
        open: lacking(share, 0.5),
        centred: z.boolean().optional()
      }),
      { moments: 1, open: 0.5 }
    ),
    elements: z.array(Element).max(MOST.elements),
    /** Type faces of its own. */
    faces: z.array(OwnFace).max(MOST.fonts).optional(),
    spans: lacking(z.array(Span).max(200), [])
  })
  .superRefine((scene, context) => {
    if (scene.width * scene.height > MOST.pixels)
      context.addIssue({
        code: 'custom',
        path: ['width'],
        message: `a picture of ${scene.width}x${scene.height} is larger than a scene may be`
      })
    const ids = new Set<string>()
    for (const [n, { id }] of scene.elements.entries()) {
      if (ids.has(id))
        context.addIssue({ code: 'custom', path: ['elements', n, 'id'], message: `"${id}" is there twice` })
      ids.add(id)
    }
    for (const [n, { after }] of scene.elements.entries())
      if (after !== null && !ids.has(after))
        context.addIssue({ code: 'custom', path: ['elements', n, 'after'], message: `no element is called "${after}"` })
    const faces = new Set([...FACES, ...(scene.faces ?? [])].map(face => face.id as string))
    for (const [n, { look }] of scene.elements.entries())
      for (const face of facesOf(look))
        if (!faces.has(face))
          context.addIssue({
            code: 'custom',
            path: ['elements', n, 'look', 'face'],
            message: `no type face is called "${face}"`
          })
    const byId = new Map(scene.elements.map(element => [element.id, element]))
    for (const [n, { id, inside }] of scene.elements.entries()) {
      if (inside === undefined) continue
      const wrong = (message: string): void =>
        context.addIssue({ code: 'custom', path: ['elements', n, 'inside'], message })
      const holder = byId.get(inside)
      if (!holder || !kindOf(holder.look).holds) wrong(`no group is called "${inside}"`)
      let depth = 0
      for (let at: string | undefined = inside; at !== undefined; at = byId.get(at)?.inside)
        if (at === id || ++depth > MOST.depth) {
          wrong(at === id ? 'a group lies within itself' : `groups lie more than ${MOST.depth} deep`)
          break
        }
    }
  })
export type Scene = z.infer<typeof Scene>

/** What of a scene the form of an element in it offers. */
export function offersOf({ faces, elements }: Scene, { inside, id }: Element): Offers {
  const beside = elements.filter(each => each.id !== id && each.inside === inside)
  const choices = (of: readonly Element[]): Choice[] =>
    of.map(each => ({ value: each.id, label: each.name || each.id }))
  return {
    faces: (faces ?? []).map(face => ({ value: face.id, label: face.name })),
    letterings: choices(beside.filter(each => kindOf(each.look).words)),
    beside: choices(beside),
    paths: choices(beside.filter(each => kindOf(each.look).line)),
    camera: inside === undefined && elements.some(each => kindOf(each.look).unseen)
  }
}

/** Whether anything that is drawn adds light, so that its frames can only be said premultiplied. */
export const addsLight = ({ elements }: Scene): boolean => elements.some(({ glow, hidden }) => !hidden && !!glow?.added)
