/** A vector animation of one disc, as its JSON has it. */
interface Disc {
  opacity?: number
  moves?: boolean
}

export function vectorDisc({ opacity = 100, moves = false }: Disc) {
  const still = <T>(k: T): { a: 0; k: T } => ({ a: 0, k })
  const position = moves
    ? {
        a: 1,
        k: [
          { t: 0, s: [30, 32, 0], i: { x: [0.8], y: [0.8] }, o: { x: [0.2], y: [0.2] } },
          { t: 49, s: [66, 32, 0] }
        ]
      }
    : still([48, 32, 0])
  const transform = { p: still([0, 0]), a: still([0, 0]), s: still([100, 100]), r: still(0), o: still(100) }
  return {
    v: '5.7.0',
    fr: 25,
    ip: 0,
    op: 50,
    w: 96,
    h: 64,
    layers: [
      {
        ty: 4,
        ip: 0,
        op: 50,
        st: 0,
        ks: { o: still(opacity), r: still(0), p: position, a: still([0, 0, 0]), s: still([100, 100, 100]) },
        shapes: [
          {
            ty: 'gr',
            it: [
              { ty: 'el', p: still([0, 0]), s: still([40, 40]) },
              { ty: 'fl', c: still([0x17 / 255, 0x5c / 255, 0x4e / 255, 1]), o: still(100) },
              { ty: 'tr', ...transform }
            ]
          }
        ]
      }
    ]
  }
}
