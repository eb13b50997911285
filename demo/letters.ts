/** Letters drawn as strokes on a grid four wide and six high, enough for the demo's name straps. */
import { stroke, type Shape } from './canvas'

type Line = readonly (readonly [number, number])[]

const GLYPHS: Record<string, readonly Line[]> = {
  A: [
    [
      [0, 6],
      [2, 0],
      [4, 6]
    ],
    [
      [0.8, 4],
      [3.2, 4]
    ]
  ],
  B: [
    [
      [0, 0],
      [0, 6],
      [3, 6],
      [4, 5],
      [4, 4],
      [3, 3],
      [0, 3]
    ],
    [
      [0, 0],
      [2.6, 0],
      [3.5, 0.8],
      [3.5, 2.2],
      [2.6, 3]
    ]
  ],
  D: [
    [
      [0, 0],
      [0, 6],
      [2.4, 6],
      [4, 4.4],
      [4, 1.6],
      [2.4, 0],
      [0, 0]
    ]
  ],
  E: [
    [
      [4, 0],
      [0, 0],
      [0, 6],
      [4, 6]
    ],
    [
      [0, 3],
      [3, 3]
    ]
  ],
  F: [
    [
      [4, 0],
      [0, 0],
      [0, 6]
    ],
    [
      [0, 3],
      [3, 3]
    ]
  ],
  G: [
    [
      [4, 1.2],
      [2.8, 0],
      [1.2, 0],
      [0, 1.4],
      [0, 4.6],
      [1.2, 6],
      [2.8, 6],
      [4, 4.8],
      [4, 3.2],
      [2.4, 3.2]
    ]
  ],
  H: [
    [
      [0, 0],
      [0, 6]
    ],
    [
      [4, 0],
      [4, 6]
    ],
    [
      [0, 3],
      [4, 3]
    ]
  ],
  I: [
    [
      [2, 0],
      [2, 6]
    ]
  ],
  K: [
    [
      [0, 0],
      [0, 6]
    ],
    [
      [4, 0],
      [0, 3.4]
    ],
    [
      [1.2, 2.6],
      [4, 6]
    ]
  ],
  L: [
    [
      [0, 0],
      [0, 6],
      [3.6, 6]
    ]
  ],
  M: [
    [
      [0, 6],
      [0, 0],
      [2, 3.6],
      [4, 0],
      [4, 6]
    ]
  ],
  N: [
    [
      [0, 6],
      [0, 0],
      [4, 6],
      [4, 0]
    ]
  ],
  O: [
    [
      [1.4, 0],
      [0, 1.6],
      [0, 4.4],
      [1.4, 6],
      [2.6, 6],
      [4, 4.4],
      [4, 1.6],
      [2.6, 0],
      [1.4, 0]
    ]
  ],
  R: [
    [
      [0, 6],
      [0, 0],
      [3, 0],
      [4, 0.9],
      [4, 2.3],
      [3, 3.2],
      [0, 3.2]
    ],
    [
      [1.8, 3.2],
      [4, 6]
    ]
  ],
  S: [
    [
      [4, 1],
      [3, 0],
      [1, 0],
      [0, 1],
      [0, 2],
      [1, 3],
      [3, 3],
      [4, 4],
      [4, 5],
      [3, 6],
      [1, 6],
      [0, 5]
    ]
  ],
  T: [
    [
      [0, 0],
      [4, 0]
    ],
    [
      [2, 0],
      [2, 6]
    ]
  ],
  U: [
    [
      [0, 0],
      [0, 4.6],
      [1.2, 6],
      [2.8, 6],
      [4, 4.6],
      [4, 0]
    ]
  ],
  W: [
    [
      [0, 0],
      [1, 6],
      [2, 2],
      [3, 6],
      [4, 0]
    ]
  ]
}

/** A line of capitals from (left, top), `height` pixels high; letters without a drawing are spaces. */
export function lettering(text: string, left: number, top: number, height: number, weight: number): Shape {
  const unit = height / 6
  const step = 5.4 * unit
  const letters = [...text].map((letter, n) =>
    (GLYPHS[letter] ?? []).map(line =>
      stroke(
        line.map(([x, y]) => [left + n * step + x * unit, top + y * unit] as const),
        weight
      )
    )
  )
  return {
    distance: (x, y) => {
      const n = Math.floor((x - left + weight) / step)
      let nearest = 1e3
      for (const at of [n - 1, n])
        for (const letter of letters[at] ?? []) nearest = Math.min(nearest, letter.distance(x, y))
      return nearest
    },
    left: left - weight,
    right: left + text.length * step,
    top: top - weight,
    bottom: top + height + weight
  }
}
