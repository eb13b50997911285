/** Layers of OpenEXR ("OpenEXR File Layout", channel names): "beauty.R" is the red of the layer "beauty". */

export interface LayerChannels {
  /** Empty for channels without a layer. */
  name: string
  /**
   * Index of the channel for each sample of a pixel: red, green, blue, alpha. Grey stands for all three; null is not
   * there.
   */
  channels: readonly [number | null, number | null, number | null, number | null]
  /** How likely it is meant to be seen: 0 without a name, 1 by its name, 2 with alpha, 3 the rest. */
  rank: number
}

/** How a channel is called by the last part of its name, in either case. */
const ROLES: Readonly<Record<string, readonly number[]>> = {
  R: [0],
  RED: [0],
  G: [1],
  GREEN: [1],
  B: [2],
  BLUE: [2],
  A: [3],
  ALPHA: [3],
  Y: [0, 1, 2]
}

/** Names that renderers give to what they mean to be seen. */
const SEEN = /(^|[.:_-])(combined|beauty|rgba?|color|colour|main|final|composite)$/i

/** How likely a layer of that name is meant to be seen; lower is likelier. */
export const rankOf = (name: string, alpha: boolean): number => (name === '' ? 0 : SEEN.test(name) ? 1 : alpha ? 2 : 3)

/**
 * Layers that hold colour, the one to be seen first: channels without a layer, then by name, then the first with alpha.
 */
export function layersOf(channels: readonly string[]): LayerChannels[] {
  const layers = new Map<string, (number | null)[]>()
  channels.forEach((channel, index) => {
    const dot = channel.lastIndexOf('.')
    const roles = ROLES[channel.slice(dot + 1).toUpperCase()]
    if (!roles) return
    const name = channel.slice(0, Math.max(0, dot))
    const filled = layers.get(name) ?? [null, null, null, null]
    for (const role of roles) filled[role] ??= index
    layers.set(name, filled)
  })
  return [...layers]
    .map(([name, filled]): LayerChannels => ({
      name,
      channels: filled as unknown as LayerChannels['channels'],
      rank: rankOf(name, filled[3] !== null)
    }))
    .filter(({ channels: [r, g, b] }) => r !== null || g !== null || b !== null)
    .sort((a, b) => a.rank - b.rank)
}
