/** SVG files of many features, each drawn alike by a browser, or told not to be drawn. 120 x 90, over nothing. */

export interface SvgCase {
  name: string
  inside: string
  head?: string
  /** What is not drawn, and must be told. */
  told?: RegExp
}

const LOGO =
  '<g id="logo"><circle cx="40" cy="45" r="26" fill="#2f7d5a"/><rect x="50" y="20" width="50" height="40" ' +
  'rx="6" fill="#d8883b"/></g>'
/** A face that ships with the product, hinted nowhere. */
const PLEX = 'font-family="IBM Plex Sans" text-rendering="geometricPrecision"'
/** A picture of 20 x 16: two bars, half of it translucent. */
const PICTURE =
  'data:image/png;base64,iVBORw0KGgoAAAANSUhEUgAAABQAAAAQCAYAAAAWGF8bAAAAdElEQVR42o3LMQGDUABDwTjAQRzgAAc4wEEdfAcszDioAxzgoHMWlNBIeMONp2i8hCFlagAMKW4ADClzA2BIWRoAQ8raABhStgbAkPJpAAwpYxyEIWVvAAwpZwNgSPk2AIaUqwEwpNwNgCHl1wAYUp4GwNAfGN613zTb4ZYAAAAASUVORK5CYII='
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
    '<style>.k{clip-path:url(#c)}</style><clipPath id="c"><rect x="20" y="20" width="60" ' +
      `height="30"/></clipPath><g class="k">${LOGO}</g>`
  ),
  drawn(
    'clip by even and odd',
    '<clipPath id="c"><path clip-rule="evenodd" d="M10 10h100v70h-100zM40 30h40v30h-40z"/></clipPath><g ' +
      `clip-path="url(#c)">${LOGO}</g>`
  ),
  drawn(
    'clip by its box',
    '<clipPath id="c" clipPathUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".5"/></clipPath><rect ' +
      'x="10" y="10" width="100" height="60" fill="#335" clip-path="url(#c)"/>'
  ),
  drawn(
    'clip of several',
    '<clipPath id="c"><circle cx="40" cy="45" r="20"/><rect x="60" y="30" width="40" height="30" ' +
      `transform="rotate(10 80 45)"/></clipPath><g clip-path="url(#c)">${LOGO}</g>`
  ),
  drawn(
    'clip within a clip',
    '<clipPath id="d"><rect x="30" width="60" height="90"/></clipPath><clipPath id="c" ' +
      `clip-path="url(#d)"><circle cx="50" cy="45" r="30"/></clipPath><g clip-path="url(#c)">${LOGO}</g>`
  ),
  drawn(
    'mask by light',
    '<linearGradient id="g"><stop stop-color="#fff"/><stop offset="1" ' +
      'stop-color="#000"/></linearGradient><mask id="m"><rect width="120" height="90" fill="url(#g)"/></mask><g ' +
      `mask="url(#m)">${LOGO}</g>`
  ),
  drawn(
    'mask by alpha',
    `<mask id="m" mask-type="alpha"><circle cx="60" cy="45" r="30" opacity=".6"/></mask><g mask="url(#m)">${LOGO}</g>`
  ),
  drawn(
    'mask by its box',
    '<mask id="m" maskContentUnits="objectBoundingBox"><circle cx=".5" cy=".5" r=".4" ' +
      'fill="#fff"/></mask><rect x="10" y="10" width="100" height="60" fill="#335" mask="url(#m)"/>'
  ),
  drawn(
    'mask of a part',
    '<mask id="m" maskUnits="userSpaceOnUse" x="30" y="20" width="40" height="40"><rect width="120" ' +
      'height="90" fill="#ddd"/></mask><rect width="120" height="90" fill="#335" mask="url(#m)"/>'
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
      '<rect x="10" y="10" width="80" height="50" fill="#c33"/><rect x="40" y="30" width="70" height="50" ' +
        `fill="#39a" opacity=".8" style="mix-blend-mode:${mode}"/>`
    )
  ),
  drawn(
    'blend within a group of its own',
    '<rect width="70" height="90" fill="#c33"/><g style="isolation:isolate"><rect x="40" y="20" width="60" ' +
      'height="50" fill="#39a" style="mix-blend-mode:multiply"/></g>'
  ),
  drawn('blur', `<filter id="f"><feGaussianBlur stdDeviation="3"/></filter><g filter="url(#f)">${LOGO}</g>`),
  drawn(
    'blur of coded light',
    '<filter id="f" color-interpolation-filters="sRGB"><feGaussianBlur stdDeviation="4 1"/></filter><g ' +
      `filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'shadow by offset, blur and merge',
    '<filter id="f"><feGaussianBlur in="SourceAlpha" stdDeviation="2"/><feOffset dx="4" dy="5" ' +
      'result="s"/><feMerge><feMergeNode in="s"/><feMergeNode in="SourceGraphic"/></feMerge></filter><g ' +
      `filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'drop shadow',
    '<filter id="f"><feDropShadow dx="4" dy="3" stdDeviation="2" flood-color="#603" ' +
      `flood-opacity=".7"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'colour matrix',
    '<filter id="f"><feColorMatrix type="matrix" values=".2 .4 0 0 .1 0 .8 .1 0 0 .3 0 .6 0 0 0 0 0 1 ' +
      `0"/></filter><g filter="url(#f)">${LOGO}</g>`
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
    '<filter id="f"><feFlood flood-color="#0a7" result="c"/><feComposite in="c" in2="SourceAlpha" ' +
      `operator="in"/></filter><g filter="url(#f)">${LOGO}</g>`
  ),
  drawn(
    'picture within the picture',
    '<svg x="20" y="10" width="60" height="60" viewBox="0 0 10 20"><rect width="10" height="20" ' +
      'fill="#a34"/><circle cx="5" cy="10" r="5" fill="#fff"/></svg>'
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
    '<symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10" fill="#4a2"/><circle cx="5" cy="5" r="7" ' +
      'fill="#fff" fill-opacity=".5"/></symbol><use href="#s" x="10" y="10" width="60" height="40"/><use ' +
      'href="#s" x="75" y="30" width="30" height="50"/>'
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
    '<pattern id="p" width="12" height="12" patternUnits="userSpaceOnUse"><rect width="6" height="12" ' +
      'fill="#c33"/><circle cx="9" cy="6" r="2" fill="#36c"/></pattern><rect x="10" y="10" width="100" ' +
      'height="60" fill="url(#p)"/>'
  ),
  drawn(
    'pattern by its box',
    '<pattern id="p" width=".25" height=".25"><circle cx="8" cy="6" r="6" fill="#2a6"/></pattern><rect x="10" ' +
      'y="10" width="100" height="60" fill="url(#p)"/>'
  ),
  drawn(
    'pattern turned',
    '<pattern id="p" width="10" height="10" patternUnits="userSpaceOnUse" patternTransform="rotate(30)"><rect ' +
      'width="5" height="10" fill="#936"/></pattern><circle cx="60" cy="45" r="40" fill="url(#p)"/>'
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
    '<g transform="scale(3 1)"><rect x="8" y="15" width="24" height="60" fill="none" stroke="#036" ' +
      'stroke-width="6" vector-effect="non-scaling-stroke"/></g>'
  ),
  drawn(
    'turned about its own middle',
    '<rect x="30" y="20" width="60" height="40" fill="#369" ' +
      'style="transform-box:fill-box;transform-origin:center" transform="rotate(30)"/>'
  ),
  drawn(
    'turned about a place',
    '<rect x="30" y="20" width="60" height="40" fill="#369" transform="rotate(20)" style="transform-origin:60px 40px"/>'
  ),
  drawn(
    'switch',
    '<switch><rect systemLanguage="xx" width="120" height="90" fill="red"/><circle cx="60" cy="45" r="30" ' +
      'fill="#283"/><rect width="120" height="90" fill="blue"/></switch>'
  ),
  drawn('lengths in em', '<rect x="1em" y="1rem" width="4em" height="2em" fill="#637"/>'),
  drawn(
    'inner circle of a gradient',
    '<radialGradient id="g" fr="30%"><stop stop-color="#fff"/><stop offset="1" ' +
      'stop-color="#036"/></radialGradient><rect width="120" height="90" fill="url(#g)"/>'
  ),
  drawn('fallback of a colour', '<rect x="10" y="10" width="80" height="60" fill="url(#none) #2a7"/>'),
  drawn('faded group over another', `<rect width="60" height="90" fill="#333"/><g opacity=".5">${LOGO}</g>`),
  drawn('colours in hsl', '<rect x="10" y="10" width="80" height="60" fill="hsl(200, 60%, 40%)"/>'),
  drawn(
    'clip and mask and blur of one',
    '<clipPath id="c"><rect x="10" y="10" width="80" height="60"/></clipPath><mask id="m"><circle cx="60" ' +
      'cy="45" r="36" fill="#fff"/></mask><filter id="f"><feGaussianBlur stdDeviation="2"/></filter><g ' +
      `clip-path="url(#c)" mask="url(#m)" filter="url(#f)">${LOGO}</g>`
  ),
  drawn('lettering', `<text x="10" y="60" font-size="42" ${PLEX}>Moth</text>`),
  drawn(
    'lettering of many letters, at places that are no whole numbers',
    `<g ${PLEX} font-size="17.25"><text x="3.75" y="20" font-weight="700">Fernbrook Glass</text><text x="1" ` +
      'y="45">quick vex jump</text><text x="3" y="70" fill="#264">0123456789 &#8211;?</text></g>'
  ),
  drawn(
    'lettering of joined letters, and of spaces in its own size',
    `<g ${PLEX} font-size="30"><text x="4" y="30">fig first</text><text x="4" y="70" ` +
      'letter-spacing=".15em">fiVA</text></g>'
  ),
  drawn(
    'lettering that runs to the left',
    `<g ${PLEX} font-size="24" direction="rtl"><text x="112" y="30">שלום (12)</text><text x="60" y="58" ` +
      'text-anchor="middle">مرحبا AV</text><text x="8" y="84" text-anchor="end">דקל</text></g>'
  ),
  told(
    'letters moved that run to the left',
    `<text x="112" y="40" direction="rtl" dx="0 2" font-size="24" ${PLEX}>דקל</text>`,
    /moved one by one that run to the left/
  ),
  told(
    'bold letters of the East',
    `<text x="10" y="40" font-weight="700" font-size="24" ${PLEX}>温室</text>`,
    /East Asian letters of other weights/
  ),
  told(
    'spacing between letters that join',
    `<text x="112" y="40" direction="rtl" letter-spacing="2" font-size="24" ${PLEX}>مرحبا</text>`,
    /spacing between letters that join/
  ),
  drawn(
    'letters of other scripts',
    `<text x="6" y="36" font-size="26" ${PLEX}>क्षत्रिय</text><text x="6" y="76" font-size="26" ${PLEX}>ที่นี่ Ж</text>`
  ),
  told('lettering of a size in words', `<text x="4" y="40" font-size="large" ${PLEX}>Moth</text>`, /the size “large”/),
  drawn(
    'lettering anchored, spaced, heavier, with parts of its own',
    '<text x="60" y="30" text-anchor="middle" font-weight="700" letter-spacing="2" font-size="24" ' +
      `${PLEX}>Vine <tspan fill="#a33" font-weight="400" dy="26" x="60">shade</tspan></text>`
  ),
  drawn(
    'lettering with places of its own, stroked and turned',
    `<g transform="rotate(-8 60 45)" ${PLEX} font-size="36"><text x="8 40 70" y="50 56 62" fill="none" ` +
      'stroke="#246" stroke-width="1.5">ABC</text></g>'
  ),
  drawn(
    'lettering of a gradient over its cells',
    '<linearGradient id="g" x2="0" y2="1"><stop stop-color="#d33"/><stop offset="1" ' +
      `stop-color="#33d"/></linearGradient><text x="6" y="62" font-size="50" fill="url(#g)" ${PLEX}>Hxg</text>`
  ),
  drawn(
    'lettering as a clip',
    `<clipPath id="c"><text x="4" y="68" font-size="64" font-weight="700" ${PLEX}>OK</text></clipPath><g ` +
      `clip-path="url(#c)">${LOGO}<rect y="60" width="120" height="30" fill="#26a"/></g>`
  ),
  drawn(
    'lettering of several sizes, ended at a place, with spaces that fall together',
    `<text x="112" y="50" text-anchor="end" font-size="20" ${PLEX}>  A   <tspan font-size="200%">B</tspan>
      &#233;&amp;x  </text>`
  ),
  told(
    'lettering in a face that is not here',
    '<text x="10" y="50" font-size="30" font-family="Fern Grotesk">Moth</text>',
    /type face “Fern Grotesk”/
  ),
  told('lettering that leans', `<text x="10" y="50" font-style="italic" ${PLEX}>Moth</text>`, /font-style “italic”/),
  told(
    'lettering along a path',
    `<path id="p" d="M0 50H120"/><text ${PLEX}><textPath href="#p">Moth</textPath></text>`,
    /along a path/
  ),
  told('lettering fitted to a length', `<text x="4" y="40" textLength="90" ${PLEX}>Moth</text>`, /fitted to a length/),
  drawn('a picture, larger', `<image x="10" y="5" width="100" height="80" href="${PICTURE}"/>`),
  drawn(
    'a picture cut to fill its place',
    `<image x="10" y="25" width="100" height="30" preserveAspectRatio="xMidYMin slice" href="${PICTURE}"/>`
  ),
  drawn(
    'a picture of its own size, turned and faded',
    `<g transform="rotate(20 60 45)" opacity=".7"><image x="40" y="25" href="${PICTURE}"/></g>`
  ),
  drawn(
    'a picture in hard pixels, stretched',
    '<image x="10" y="5" width="96" height="60" preserveAspectRatio="none" style="image-rendering:pixelated" ' +
      `href="${PICTURE}"/>`
  ),
  told(
    'a picture that is broken',
    '<image width="40" height="40" href="data:image/png;base64,iVBORw0KGgo="/>',
    /a picture within/
  ),
  told(
    'a picture of another kind',
    '<image width="40" height="40" href="data:image/webp;base64,UklGRg=="/>',
    /of a kind that is not drawn/
  ),
  told('a picture elsewhere', '<image width="40" height="40" href="leaf.png"/>', /not fetched/),
  drawn(
    'markers at ends and between, turned with the line',
    '<marker id="m" markerWidth="4" markerHeight="4" refX="2" refY="2" orient="auto" viewBox="0 0 4 4"><path ' +
      'd="M0 0L4 2L0 4z" fill="#a33"/></marker><path d="M10 20L60 20L100 70" fill="none" stroke="#000" ' +
      'stroke-width="3" marker-start="url(#m)" marker-mid="url(#m)" marker-end="url(#m)"/>'
  ),
  drawn(
    'markers on curves and arcs, the first looking back',
    '<marker id="m" markerWidth="12" markerHeight="12" refX="0" refY="0" markerUnits="userSpaceOnUse" ' +
      'orient="auto-start-reverse" viewBox="-6 -6 12 12"><path d="M-6 -5L6 0L-6 5z" fill="#26a"/></marker><path ' +
      'd="M15 60C20 10 50 10 60 50A20 20 0 0 0 100 60" fill="none" stroke="#000" style="marker:url(#m)"/>'
  ),
  drawn(
    'markers on a closed path, in lines and polygons, by style sheet',
    '<style>.k{marker-start:url(#d);marker-mid:url(#d);marker-end:url(#d)}</style><marker id="d" ' +
      'markerWidth="3" markerHeight="3" refX="1.5" refY="1.5" orient="45"><rect width="3" height="3" ' +
      'fill="#494"/></marker><path class="k" d="M10 10H50V40Z" fill="#ccc" stroke="#000" ' +
      'stroke-width="2"/><polygon class="k" points="70,50 110,50 90,80" fill="none" stroke="#333" ' +
      'stroke-width="2"/><line class="k" x1="10" y1="60" x2="50" y2="80" stroke="#000" stroke-width="2"/>'
  ),
  drawn(
    'markers turned on the corners of a closed path',
    '<marker id="m" markerWidth="14" markerHeight="8" refX="0" refY="4" markerUnits="userSpaceOnUse" ' +
      'orient="auto"><path d="M0 0L14 4L0 8z" fill="#26a"/></marker><path d="M30 20H90L60 70Z" fill="none" ' +
      'stroke="#000" style="marker:url(#m)"/>'
  ),
  drawn(
    'markers that are seen beyond their place, beneath the stroke',
    '<marker id="m" markerWidth="2" markerHeight="2" overflow="visible" orient="auto"><circle r="3" ' +
      'fill="#c80"/></marker><g marker-mid="url(#m)" marker-end="url(#m)"><polyline points="15,15 60,70 105,20" ' +
      'fill="none" stroke="#124" stroke-width="4" paint-order="markers"/></g>'
  ),
  told(
    'markers in the paint of their line',
    '<marker id="m" markerWidth="6" markerHeight="6"><circle r="3" fill="context-stroke"/></marker><path ' +
      'd="M10 10H90" stroke="#000" marker-end="url(#m)"/>',
    /context-stroke/
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
