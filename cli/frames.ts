/** `frames PATH --to DIR [--depth 8|16]`: stored frames as straight PNG, code for code. */
import { impossible, wrongCall } from '../core/base/errors'
import { withAlphaMode } from '../core/frame/alpha'
import { withDepth } from '../core/frame/depth'
import { coded } from '../core/frame/transfer'
import { encodePng } from '../core/media/pictures/png/encode'
import { folderSink } from '../platform/node/place'
import { placeAsked } from '../platform/node/resolved'
import { placesOf, refuseWithin } from '../platform/node/same'
import { bringOne, decided, tellFindings } from './bring-in'
import { needed, parseAlpha, text, type Call, type Options } from './call'
import { EXIT } from './exit'

/**
 * Frames are converted only by what the file itself declares, or by --source-alpha: a file that declares nothing is
 * handed out as it is stored, whatever its pixels suggest.
 */
export async function frames(location: string, options: Options, call: Call): Promise<number> {
  const to = await placeAsked(needed(options, 'to'))
  const depth = text(options, 'depth')
  if (depth !== undefined && depth !== '8' && depth !== '16') throw wrongCall(`--depth takes 8 or 16, not "${depth}"`)
  const { spec, facts } = await decided(await bringOne(location, call), options, call)
  tellFindings({ spec, facts }, call)
  const given = text(options, 'source-alpha')
  const source = given
    ? { ...spec, interpretation: { ...spec.interpretation, alpha: parseAlpha(given, 'source-alpha') } }
    : spec
  const wanted = depth === undefined ? (facts.bitDepth === 8 ? 8 : 16) : Number(depth) === 8 ? 8 : 16
  if (facts.frames > 9_999_999) throw impossible(`${facts.frames} frames are more than can be numbered`)
  await refuseWithin(placesOf(source), to, name => /^\d{4,}\.png$/i.test(name))
  const sink = await folderSink(to, { replace: options.replace === true })
  try {
    for (let i = 0; i < facts.frames; i++) {
      call.signal.throwIfAborted()
      const frame = coded(await call.pool.run('frame', [source, i]), call.host.kernels)
      const straight = withDepth(
        withAlphaMode(frame, frame.alpha.mode === 'none' ? frame.alpha : { mode: 'straight' }, call.host.kernels),
        wanted,
        call.host.kernels
      )
      await sink.add(`${String(i + 1).padStart(4, '0')}.png`, await encodePng(call.host, straight))
    }
    await sink.close()
  } catch (error) {
    await sink.abort()
    throw error
  }
  if (call.json) call.print(JSON.stringify({ frames: facts.frames, to, bitDepth: wanted }))
  else call.print(`${facts.frames} ${facts.frames === 1 ? 'frame' : 'frames'} of ${facts.name} in ${to}, ${wanted} bit`)
  return EXIT.done
}
