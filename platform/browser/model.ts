/**
 * Models through `three`, drawn onto a target of 32-bit floats in a worker: sixteen places within each pixel are drawn
 * and averaged, premultiplied and in linear light. Nothing is fetched: whatever a file names outside itself comes to
 * nothing.
 */
import type { ModelPlayer } from '../../core/frame/host'

/** Places within a pixel, across and down. */
const WITHIN = 4
/** Finer than any code of 16 bits. */
const STEPS = 65536

/** Linear light as coded values. */
function codedTable(): Float32Array {
  const table = new Float32Array(STEPS + 1)
  for (let i = 0; i <= STEPS; i++) {
    const value = i / STEPS
    table[i] = value <= 0.0031308 ? 12.92 * value : 1.055 * value ** (1 / 2.4) - 0.055
  }
  return table
}

export const browserModels: ModelPlayer = {
  async open(bytes, { width, height, moves, view }) {
    const three = await import('three')
    const { GLTFLoader } = await import('three/examples/jsm/loaders/GLTFLoader.js')
    const manager = new three.LoadingManager()
    manager.setURLModifier(url => (url.startsWith('blob:') || url.startsWith('data:') ? url : 'data:,'))
    const gltf = await new GLTFLoader(manager).parseAsync(new Uint8Array(bytes).buffer, '')
    const canvas = new OffscreenCanvas(1, 1)
    const renderer = new three.WebGLRenderer({ canvas, alpha: true, antialias: false, premultipliedAlpha: true })
    renderer.setClearColor(0x000000, 0)
    renderer.toneMapping = three.NoToneMapping
    renderer.shadowMap.enabled = true
    renderer.shadowMap.type = three.PCFShadowMap
    if (!renderer.extensions.has('EXT_color_buffer_float') || !renderer.extensions.has('EXT_float_blend')) {
      renderer.dispose()
      throw new Error('this browser draws no pictures of floating point')
    }
    const target = new three.WebGLRenderTarget(width, height, {
      type: three.FloatType,
      format: three.RGBAFormat,
      colorSpace: three.LinearSRGBColorSpace,
      minFilter: three.NearestFilter,
      magFilter: three.NearestFilter
    })

    const scene = new three.Scene()
    // what turns, turns about the middle of what is seen
    const turning = new three.Group()
    turning.add(gltf.scene)
    scene.add(turning)
    const mixer = new three.AnimationMixer(gltf.scene)
    if (moves && gltf.animations[0]) mixer.clipAction(gltf.animations[0]).play()
    mixer.setTime(0)
    scene.updateMatrixWorld(true)
    const box = new three.Box3().setFromObject(gltf.scene)
    if (box.isEmpty()) throw new Error('there is nothing in it to be seen')
    const middle = box.getCenter(new three.Vector3())
    const radius = Math.max(1e-6, box.getSize(new three.Vector3()).length() / 2)
    gltf.scene.position.sub(new three.Vector3(middle.x, 0, middle.z))
    turning.position.set(middle.x, 0, middle.z)
    gltf.scene.traverse(each => {
      if (!(each instanceof three.Mesh)) return
      each.castShadow = true
      each.receiveShadow = true
    })

    let lit = false
    gltf.scene.traverse(each => void (lit ||= each instanceof three.Light))
    scene.add(new three.HemisphereLight(0xffffff, 0x808080, (lit ? 0.4 : 1.6) * view.strong))
    const sun = new three.DirectionalLight(0xffffff, (lit ? 0.6 : 2.2) * view.strong)
    sun.position.copy(middle).add(way(view.sun, view.high, 3 * radius))
    sun.target.position.copy(middle)
    sun.castShadow = true
    sun.shadow.mapSize.set(2048, 2048)
    sun.shadow.bias = -0.0005
    sun.shadow.normalBias = radius / 400
    Object.assign(sun.shadow.camera, {
      left: -2 * radius,
      right: 2 * radius,
      top: 2 * radius,
      bottom: -2 * radius,
      near: 0.01 * radius,
      far: 10 * radius
    })
    scene.add(sun, sun.target)
    // the floor is not seen: only what lies in shadow on it is, as alpha
    const floor = new three.Mesh(
      new three.PlaneGeometry(40 * radius, 40 * radius),
      new three.ShadowMaterial({ color: 0x000000, opacity: view.shadow })
    )
    floor.rotation.x = -Math.PI / 2
    floor.position.set(middle.x, box.min.y - radius / 1000, middle.z)
    floor.receiveShadow = true
    if (view.shadow > 0) scene.add(floor)

    /** A way of so many degrees around, clockwise from the front as seen from above, and so many upwards. */
    function way(around: number, up: number, far: number): InstanceType<typeof three.Vector3> {
      const [turn, rise] = [(around * Math.PI) / 180, (up * Math.PI) / 180]
      return new three.Vector3(
        Math.sin(turn) * Math.cos(rise) * far,
        Math.sin(rise) * far,
        Math.cos(turn) * Math.cos(rise) * far
      )
    }

    const camera = cameraOf()
    function cameraOf(): InstanceType<typeof three.PerspectiveCamera | typeof three.OrthographicCamera> {
      const [own] = view.own ? gltf.cameras : []
      if (own instanceof three.PerspectiveCamera) {
        own.aspect = width / height
        own.updateProjectionMatrix()
        return own
      }
      if (own instanceof three.OrthographicCamera) return own
      const half = (view.lens * Math.PI) / 360
      // so far away that a ball about all of it lies within the narrower side
      const narrow = Math.min(half, Math.atan(Math.tan(half) * (width / height)))
      const far = (1.15 * radius) / Math.sin(narrow) / view.near
      const made = new three.PerspectiveCamera(view.lens, width / height, far / 1000, far + 100 * radius)
      made.position.copy(middle).add(way(view.turned, view.tilted, far))
      made.lookAt(middle)
      scene.add(made)
      return made
    }

    // what was drawn is added up where it lies; only the sum is read back
    const total = new three.WebGLRenderTarget(width, height, {
      type: three.FloatType,
      format: three.RGBAFormat,
      minFilter: three.NearestFilter,
      magFilter: three.NearestFilter,
      depthBuffer: false
    })
    const adding = new three.ShaderMaterial({
      uniforms: { drawn: { value: target.texture }, share: { value: 1 / (WITHIN * WITHIN) } },
      vertexShader: 'void main() { gl_Position = vec4(position.xy, 0.0, 1.0); }',
      fragmentShader:
        'uniform sampler2D drawn; uniform float share; void main() { gl_FragColor = share * texelFetch(drawn, ' +
        'ivec2(gl_FragCoord.xy), 0); }',
      blending: three.CustomBlending,
      blendEquation: three.AddEquation,
      blendSrc: three.OneFactor,
      blendDst: three.OneFactor,
      blendSrcAlpha: three.OneFactor,
      blendDstAlpha: three.OneFactor,
      depthTest: false,
      depthWrite: false,
      toneMapped: false
    })
    const sheet = new three.Scene()
    sheet.add(new three.Mesh(new three.PlaneGeometry(2, 2), adding))
    const flat = new three.OrthographicCamera()
    const sum = new Float32Array(4 * width * height)
    const coded = codedTable()
    let open = true
    return {
      frame(at) {
        if (moves) mixer.setTime(at.seconds)
        turning.rotation.y = 2 * Math.PI * at.turn
        renderer.setRenderTarget(total)
        renderer.autoClear = true
        renderer.clear()
        for (let n = 0; n < WITHIN * WITHIN; n++) {
          const [x, y] = [((n % WITHIN) + 0.5) / WITHIN - 0.5, (Math.floor(n / WITHIN) + 0.5) / WITHIN - 0.5]
          camera.setViewOffset(width, height, x, y, width, height)
          renderer.autoClear = true
          renderer.setRenderTarget(target)
          renderer.render(scene, camera)
          renderer.autoClear = false
          renderer.setRenderTarget(total)
          renderer.render(sheet, flat)
        }
        renderer.readRenderTargetPixels(total, 0, 0, width, height, sum)
        // the target's rows begin at the bottom; its light is linear
        const pixels = new Float32Array(4 * width * height)
        for (let row = 0; row < height; row++) {
          let from = 4 * width * (height - 1 - row)
          let to = 4 * width * row
          for (let x = 0; x < width; x++, from += 4, to += 4) {
            const alpha = Math.min(1, sum[from + 3]!)
            if (alpha <= 0) continue
            pixels[to + 3] = alpha
            for (let c = 0; c < 3; c++) {
              const light = Math.min(1, Math.max(0, sum[from + c]! / alpha))
              pixels[to + c] = coded[Math.round(light * STEPS)]! * alpha
            }
          }
        }
        return pixels
      },
      close() {
        if (!open) return
        open = false
        target.dispose()
        total.dispose()
        adding.dispose()
        renderer.dispose()
        renderer.forceContextLoss()
      }
    }
  }
}
