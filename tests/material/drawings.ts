/** SVG files of many features, each drawn alike by a browser, or told not to be drawn. 120 x 90, over nothing. */

export interface SvgCase {
  name: string
  inside: string
  head?: string
  /** What is not drawn, and must be told. */
  told?: RegExp
}

const LOGO =
  '<g id="logo"><circle cx="40" cy="45" r="26" fill="#2f7d5a"/><rect x="50" y="20" width="50" height="40" rx="6" fill="#d8883b"/></g>'
const told = (name: string, inside: string, words: RegExp): SvgCase => ({ name, inside, told: words })
const drawn = (name: string, inside: string, head?: string): SvgCase => ({ name, inside, ...(head ? { head } : {}) })

export const drawings: readonly SvgCase[] = [
  drawn('shapes', LOGO),
  drawn('opacity on the root', LOGO, 'opacity="0.4"'),
  drawn('style on the root', LOGO, 'style="opacity:.5;fill:red"'),
  drawn(
    'clip by a circle',
    `<clipPath id="c"><circle cx="60" cy="45" r="30"/></clipPath><g clip-path="url(#c)">${LOGO}</g>`
  ),
  drawn(
    'clip by style sheet',
    `<style>.k{clip-path:url(#c)}</style><clipPath id="c"><rect x="20" y="20" width="60" height="30"/></clipPath><g class="k">${LOGO}</g>`
  ),
  drawn(
    'clip by even and odd',
    `<clipPath id="c"><path clip-rule="evenodd" d="M10 10h100v70h-100zM40 30h40v30h-40z"/></clipPath><g clip-path="url(#c)">${LOGO}</g>`
  ),
  drawn(
    'clip by its box',
    '<clipPath id="c" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".5"/></clipPath><rect x="10" y="10" width="100" height="60" fill="#335" clip-path="url(#c)"/>'
  ),
  drawn(
    'clip of several',
    `<clipPath id="c"><circle cx="40" cy="45" r="20"/><rect x="60" y="30" width="40" height="30" transform="rotate(10 80 45)"/></clipPath><g clip-path="url(#c)">${LOGO}</g>`
  ),
  drawn(
    'clip within a clip',
    `<clipPath id="d"><rect x="30" width="60" height="90"/></clipPath><clipPath id="c" clip-path="url(#d)"><circle cx="50" cy="45" r="30"/></clipPath><g clip-path="url(#c)">${LOGO}</g>`
  ),
  drawn(
    'mask by light',
    `<linearGradient id="g"><stop stop-color="#fff"/><stop offset="1" stop-color="#000"/></linearGradient><mask id="m"><rect width="120" height="90" fill="url(#g)"/></mask><g mask="url(#m)">${LOGO}</g>`
  ),
  drawn(
    'mask by alpha',
    `<mask id="m" mask-type="alpha"><circle cx="60" cy="45" r="30" opacity=".6"/></mask><g mask="url(#m)">${LOGO}</g>`
  ),
  drawn(
    'mask by its box',
    '<mask id="m" maskContentUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".4" fill="#fff"/></mask><rect x="10" y="10" width="100" height="60" fill="#335" mask="url(#m)"/>'
  ),
  drawn(
    'mask of a part',
    '<mask id="m" maskUnits="userSpaceOnUse" x="30" y="20" width="40" height="40"><rect width="120" height="90" fill="#ddd"/></mask><rect width="120" height="90" fill="#335" mask="url(#m)"/>'
  ),
  ...[
    'multiply',
    'screen',
    'overlay',
    'darken',
    'lighten',
    'color-dodge',
    'color-burn',
    'hard-light',
    'soft-light',
    'difference',
    'exclusion',
    'hue',
    'saturation',
    'color',
    'luminosity'
  ].map(mode =>
    drawn(
      `blend ${mode}`,
      `<rect x="10" y="10" width="80" height="50" fill="#c33"/><rect x="40" y="30" width="70" height="50" fill="#39a" opacity=".8" style="mix-blend-mode:${mode}"/>`
    )
  ),
  drawn(
    'blend within a group of its own',
    '<rect width="70" height="90" fill="#c33"/><g style="isolation:isolate"><rect x="40" y="20" width="60" height="50" fill="#39a" style="mix-blend-mode:multiply"/></g>'
  ),
  drawn('blur', `<filter id="f"><feGaussianBlur stdDeviation="3"/></filter><g filter="url(#f)">${LOGO}</g>`),
  drawn(
    'blur of coded light',
    `<filter id="f" color-interpolation-filters="sRGB"><feGaussianBlur stdDeviation="4 1"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'shadow by offset, blur and merge',
    `<filter id="f"><feGaussianBlur in="SourceAlpha" stdDeviation="2"/><feOffset dx="4" dy="5" result="s"/><feMerge><feMergeNode in="s"/><feMergeNode in="SourceGraphic"/></feMerge></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'drop shadow',
    `<filter id="f"><feDropShadow dx="4" dy="3" stdDeviation="2" flood-color="#603" flood-opacity=".7"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'colour matrix',
    `<filter id="f"><feColorMatrix type="matrix" values=".2 .4 0 0 .1 0 .8 .1 0 0 .3 0 .6 0 0 0 0 0 1 0"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'less saturated',
    `<filter id="f"><feColorMatrix type="saturate" values=".3"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'hue turned',
    `<filter id="f"><feColorMatrix type="hueRotate" values="90"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'flood cut by composite',
    `<filter id="f"><feFlood flood-color="#0a7" result="c"/><feComposite in="c" in2="SourceAlpha" operator="in"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'picture within the picture',
    '<svg x="20" y="10" width="60" height="60" viewBox="0 0 10 20"><rect width="10" height="20" fill="#a34"/><circle cx="5" cy="10" r="5" fill="#fff"/></svg>'
  ),
  drawn(
    'picture within, cut at its rim',
    '<svg x="20" y="10" width="50" height="50"><circle cx="40" cy="40" r="30" fill="#24a"/></svg>'
  ),
  drawn(
    'picture within, not cut',
    '<svg x="20" y="10" width="50" height="50" overflow="visible"><circle cx="40" cy="40" r="30" fill="#24a"/></svg>'
  ),
  drawn(
    'symbol with a view of its own',
    '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10" fill="#4a2"/><circle cx="5" cy="5" r="7" fill="#fff" fill-opacity=".5"/></symbol><use href="#s" x="10" y="10" width="60" height="40"/><use href="#s" x="75" y="30" width="30" height="50"/>'
  ),
  ...['xMinYMin', 'xMaxYMid', 'xMidYMax', 'xMinYMax slice', 'xMidYMid slice', 'none'].map(preserve =>
    drawn(
      `fitted by ${preserve}`,
      '<rect x="1" y="1" width="18" height="8" fill="#c60"/><circle cx="10" cy="5" r="4" fill="#036"/>',
      `viewBox="0 0 20 10" preserveAspectRatio="${preserve}"`
    )
  ),
  drawn(
    'pattern',
    '<pattern id="p" width="12" height="12" patternUnits="userSpaceOnUse"><rect width="6" height="12" fill="#c33"/><circle cx="9" cy="6" r="2" fill="#36c"/></pattern><rect x="10" y="10" width="100" height="60" fill="url(#p)"/>'
  ),
  drawn(
    'pattern by its box',
    '<pattern id="p" width=".25" height=".25"><circle cx="8" cy="6" r="6" fill="#2a6"/></pattern><rect x="10" y="10" width="100" height="60" fill="url(#p)"/>'
  ),
  drawn(
    'pattern turned',
    '<pattern id="p" width="10" height="10" patternUnits="userSpaceOnUse" patternTransform="rotate(30)"><rect width="5" height="10" fill="#936"/></pattern><circle cx="60" cy="45" r="40" fill="url(#p)"/>'
  ),
  drawn(
    'dashes round a circle',
    '<circle cx="60" cy="45" r="30" fill="none" stroke="#c03" stroke-width="8" stroke-dasharray="40 20"/>'
  ),
  drawn(
    'dashes of a path length',
    '<path pathLength="100" d="M10 45H110" stroke="#063" stroke-width="6" stroke-dasharray="10 5"/>'
  ),
  drawn(
    'stroke beneath its fill',
    '<circle cx="60" cy="45" r="30" fill="#fc3" stroke="#036" stroke-width="12" paint-order="stroke"/>'
  ),
  drawn(
    'stroke that keeps its width',
    '<g transform="scale(3 1)"><rect x="8" y="15" width="24" height="60" fill="none" stroke="#036" stroke-width="6" vector-effect="non-scaling-stroke"/></g>'
  ),
  drawn(
    'turned about its own middle',
    '<rect x="30" y="20" width="60" height="40" fill="#369" style="transform-box:fill-box;transform-origin:center" transform="rotate(30)"/>'
  ),
  drawn(
    'turned about a place',
    '<rect x="30" y="20" width="60" height="40" fill="#369" transform="rotate(20)" style="transform-origin:60px 40px"/>'
  ),
  drawn(
    'switch',
    '<switch><rect systemLanguage="xx" width="120" height="90" fill="red"/><circle cx="60" cy="45" r="30" fill="#283"/><rect width="120" height="90" fill="blue"/></switch>'
  ),
  drawn('lengths in em', '<rect x="1em" y="1rem" width="4em" height="2em" fill="#637"/>'),
  drawn(
    'inner circle of a gradient',
    '<radialGradient id="g" fr="30%"><stop stop-color="#fff"/><stop offset="1" stop-color="#036"/></radialGradient><rect width="120" height="90" fill="url(#g)"/>'
  ),
  drawn('fallback of a colour', '<rect x="10" y="10" width="80" height="60" fill="url(#none) #2a7"/>'),
  drawn('faded group over another', `<rect width="60" height="90" fill="#333"/><g opacity=".5">${LOGO}</g>`),
  drawn('colours in hsl', '<rect x="10" y="10" width="80" height="60" fill="hsl(200, 60%, 40%)"/>'),
  drawn(
    'clip and mask and blur of one',
    `<clipPath id="c"><rect x="10" y="10" width="80" height="60"/></clipPath><mask id="m"><circle cx="60" cy="45" r="36" fill="#fff"/></mask><filter id="f"><feGaussianBlur stdDeviation="2"/></filter><g clip-path="url(#c)" mask="url(#m)" filter="url(#f)">${LOGO}</g>`
  ),
  told('lettering', '<text x="10" y="50" font-size="30">Moth</text>', /lettering/),
  told('a picture', '<image width="40" height="40" href="data:image/png;base64,iVBORw0KGgo="/>', /picture/),
  told(
    'markers',
    '<marker id="m" markerWidth="6" markerHeight="6"><circle r="3"/></marker><path d="M10 10H90" stroke="#000" marker-end="url(#m)"/>',
    /markers/
  ),
  told(
    'turbulence',
    `<filter id="f"><feTurbulence baseFrequency=".1"/></filter><g filter="url(#f)">${LOGO}</g>`,
    /feTurbulence/
  ),
  told('clip by a shape of style sheets', `<g style="clip-path:circle(30px)">${LOGO}</g>`, /clipping/),
  told('filter by functions', `<g style="filter:blur(3px)">${LOGO}</g>`, /filters/),
  told('colours in oklch', '<rect width="80" height="60" fill="oklch(0.6 0.2 30)"/>', /oklch/),
  told('values that are computed', '<style>rect{fill:var(--x)}</style><rect width="80" height="60"/>', /var|computed/),
  told('an element of another kind', '<canvas width="30" height="30"/>', /canvas/),
  told(
    'its own animation',
    '<rect width="40" height="40"><animate attributeName="x" to="50" dur="1s"/></rect>',
    /animation/
  ),
  told('style of what is within', `<style>g circle{fill:red}</style>${LOGO}`, /style of/),
  told('backdrop filters', `<g style="backdrop-filter:blur(4px)">${LOGO}</g>`, /behind/),
  told('computed lengths', '<rect width="calc(20px + 2em)" height="40"/>', /calc|computed/),
  told('transforms with units of turns', '<rect width="40" height="40" style="transform:rotate(.1turn)"/>', /transform/)
]

export const svgOf = ({ inside, head = '' }: SvgCase): string =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="120" height="90" ${head}>${inside}</svg>`
