/** GET /api/scene-schema: the JSON Schema of a scene's file, for programs that write one. */
import { defineEventHandler } from 'h3'
import { sceneSchema } from '../../core/draw/scene/written'

export default defineEventHandler(() => sceneSchema())
