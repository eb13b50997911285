/**
 * A page that plays a film of halves, colour and alpha, over whatever lies behind it: one file, WebGL, nothing fetched
 * but the film. The same lines draw in the closed-off page, where what they draw is read back and judged.
 */
import type { AlphaHalf, Halves } from '../../frame/stacked'
import type { AlphaMode } from '../../frame/frame'

/** What the drawing lines are told of a film: what it comes to, which half is alpha, how colour stands to it. */
export interface HalvesHow {
  width: number
  height: number
  half: AlphaHalf
  premultiplied: boolean
}

/** What the drawing lines are told of a film whose colour stands to its alpha in this mode. */
export const halvesHow = ({ width, height, alpha: half }: Halves, mode: AlphaMode): HalvesHow => ({
  width,
  height,
  half,
  premultiplied: mode.mode === 'premultiplied'
})

/**
 * A function of a canvas and of what it is told, as text: gives back one that draws a film's present picture, put
 * together, into that canvas. Throws where the browser draws no WebGL.
 */
export const HALVES_DRAWER = `function (canvas, how) {
  var gl = canvas.getContext('webgl', { alpha: true, premultipliedAlpha: true, antialias: false, preserveDrawingBuffer: true })
  if (!gl) throw new Error('This browser draws no WebGL.')
  canvas.width = how.width
  canvas.height = how.height
  var program = gl.createProgram()
  ;[
    [gl.VERTEX_SHADER,
      'attribute vec2 place; varying vec2 at;' +
      'void main() { at = place; gl_Position = vec4(2.0 * place.x - 1.0, 1.0 - 2.0 * place.y, 0.0, 1.0); }'],
    [gl.FRAGMENT_SHADER,
      'precision highp float; varying vec2 at; uniform sampler2D film;' +
      'uniform vec2 size, stored, colour, alpha; uniform float premultiplied;' +
      'void main() {' +
      ' vec2 p = at * size;' +
      ' vec3 c = texture2D(film, (colour + p) / stored).rgb;' +
      ' float a = dot(texture2D(film, (alpha + p) / stored).rgb, vec3(0.2126, 0.7152, 0.0722));' +
      ' gl_FragColor = vec4(premultiplied > 0.5 ? min(c, a) : c * a, a); }']
  ].forEach(function (part) {
    var shader = gl.createShader(part[0])
    gl.shaderSource(shader, part[1])
    gl.compileShader(shader)
    gl.attachShader(program, shader)
  })
  gl.linkProgram(program)
  if (!gl.getProgramParameter(program, gl.LINK_STATUS)) throw new Error('This browser cannot draw the film.')
  gl.useProgram(program)
  gl.bindBuffer(gl.ARRAY_BUFFER, gl.createBuffer())
  gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([0, 0, 1, 0, 0, 1, 1, 1]), gl.STATIC_DRAW)
  var place = gl.getAttribLocation(program, 'place')
  gl.enableVertexAttribArray(place)
  gl.vertexAttribPointer(place, 2, gl.FLOAT, false, 0, 0)
  var two = function (name, value) { gl.uniform2f(gl.getUniformLocation(program, name), value[0], value[1]) }
  two('size', [how.width, how.height])
  gl.uniform1f(gl.getUniformLocation(program, 'premultiplied'), how.premultiplied ? 1 : 0)
  gl.bindTexture(gl.TEXTURE_2D, gl.createTexture())
  ;[gl.TEXTURE_WRAP_S, gl.TEXTURE_WRAP_T].forEach(function (wrap) {
    gl.texParameteri(gl.TEXTURE_2D, wrap, gl.CLAMP_TO_EDGE)
  })
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR)
  gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.LINEAR)
  return function (video) {
    var w = video.videoWidth, h = video.videoHeight
    var far = how.half === 'right' || how.half === 'left' ? [w / 2, 0] : [0, h / 2]
    var below = how.half === 'below' || how.half === 'right'
    two('stored', [w, h])
    two('colour', below ? [0, 0] : far)
    two('alpha', below ? far : [0, 0])
    gl.viewport(0, 0, how.width, how.height)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGB, gl.RGB, gl.UNSIGNED_BYTE, video)
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4)
  }
}`

const escaped = (text: string): string => text.replace(/[&<>"']/g, c => `&#${c.charCodeAt(0)};`)

/** The page; `film` is the film's name, which lies beside it. */
export function halvesPage(film: string, type: string, how: HalvesHow): string {
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escaped(film)}</title>
<!-- From here to the end of the script it can be put into any page; film and page lie in one folder. -->
<div class="halves" style="display: inline-block; position: relative">
  <canvas width="${how.width}" height="${how.height}" role="img" aria-label="${escaped(film.replace(/\.[^.]*$/, ''))}"></canvas>
  <video muted loop playsinline crossorigin="anonymous"
    style="position: absolute; width: 1px; height: 1px; opacity: 0; pointer-events: none">
    <source src="${escaped(encodeURIComponent(film))}" type="${escaped(type)}">
  </video>
  <button type="button" style="position: absolute; left: 8px; bottom: 8px">Stop</button>
</div>
<script>
(function () {
  var drawer = ${HALVES_DRAWER}
  var all = document.querySelectorAll('.halves')
  var box = all[all.length - 1]
  var video = box.querySelector('video')
  var button = box.querySelector('button')
  var draw = drawer(box.querySelector('canvas'), ${JSON.stringify(how)})
  var next = function () {
    if (video.requestVideoFrameCallback) video.requestVideoFrameCallback(shown)
    else requestAnimationFrame(shown)
  }
  var shown = function () {
    if (video.readyState > 1) draw(video)
    next()
  }
  var said = function () { button.textContent = video.paused ? 'Play' : 'Stop' }
  button.onclick = function () { video.paused ? video.play() : video.pause() }
  video.onplay = video.onpause = said
  video.onloadeddata = function () { draw(video) }
  // browsers let a page look into a film only where both come from a server
  if (location.protocol === 'file:') {
    box.textContent = 'Put this page and its film on a server, any will do: from a folder browsers do not let it draw.'
    return
  }
  next()
  // readers who ask for less motion see its first frame until they ask for more
  if (matchMedia('(prefers-reduced-motion: reduce)').matches) said()
  else video.play().catch(said)
})()
</script>
</html>
`
}
