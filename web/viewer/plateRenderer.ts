import type { Matrix3 } from '@tender-lasso/core/geometry'
import type { Channel, View, ViewMode } from '../store'
import type { MattePreview } from './mattePreview'

// The plate's own rectangle is drawn through the homography, so that the plate position of each pixel is interpolated
// with perspective and any view (Steady) is exact.
const VERTEX = `#version 300 es
in vec2 corner;
out vec2 place;
uniform mat3 toScreen;
uniform vec2 size;
uniform vec2 plateSize;
void main() {
  place = corner * plateSize;
  vec3 h = toScreen * vec3(place, 1.0);
  gl_Position = vec4(2.0 * h.x / size.x - h.z, h.z - 2.0 * h.y / size.y, 0.0, h.z);
}`

// Exposure and gamma act for the eye only: decode by the sRGB curve, scale, encode, then gamma.
// What a view does not use is left out when its program is made: software renderers pay for every branch.
const FRAGMENT = `
precision highp float;
in vec2 place;
out vec4 colour;
uniform vec2 plateSize;
uniform sampler2D plate;
uniform sampler2D matte;
uniform float exposure;
uniform float gamma;
uniform float fillOpacity;
uniform vec4 covered;
uniform float matteScale;
uniform vec3 groundColour;
uniform sampler2D groundPicture;

vec3 decoded(vec3 c) {
  return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(0.04045, c));
}
vec3 encoded(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
}

void main() {
#ifdef PLATE
  vec3 c = texture(plate, place / plateSize).rgb;
#else
  vec3 c = vec3(0.16);
#endif
#ifdef EXPOSURE
  c = encoded(decoded(c) * exp2(exposure));
#endif
#ifdef GAMMA
  c = pow(c, vec3(1.0 / gamma));
#endif
#if CHANNEL == 1
  c = c.rrr;
#elif CHANNEL == 2
  c = c.ggg;
#elif CHANNEL == 3
  c = c.bbb;
#elif CHANNEL == 4
  c = vec3(dot(c, vec3(0.2126, 0.7152, 0.0722)));
#endif
#ifdef MATTE
  // The texture's own pixels are the plate's (or the view's), so that edges stay where they are at any zoom.
  vec4 m = texture(matte, (place * matteScale - covered.xy) / covered.zw);
#else
  vec4 m = vec4(0.0);
#endif
#if MODE == 1
  c = c * (1.0 - m.a * fillOpacity) + m.rgb * fillOpacity;
#elif MODE == 2
  c = vec3(m.a);
#elif MODE == 3
  vec3 ground = groundColour;
#ifdef CHECKER
  ground = vec3(mod(floor(gl_FragCoord.x / 12.0) + floor(gl_FragCoord.y / 12.0), 2.0) < 1.0 ? 0.26 : 0.19);
#endif
#ifdef GROUND_PICTURE
  ground = texture(groundPicture, place / plateSize).rgb;
#endif
  c = encoded(mix(decoded(ground), decoded(c), m.a));
#endif
  colour = vec4(c, 1.0);
}`

/** Grey round the plate. */
const SURROUND = 0.117
export const SURROUND_GREY = '#1e1e1e'

const MODES: Record<ViewMode, number> = { plate: 0, fill: 1, matte: 2, cutout: 3 }
const CHANNEL_NUMBERS: Record<Channel, number> = { rgb: 0, red: 1, green: 2, blue: 3, luma: 4 }

/** A program made for one way of viewing, with the places of what it takes. */
interface ViewProgram {
  program: WebGLProgram
  places: Map<string, WebGLUniformLocation | null>
}

/** Draws plate and matte with WebGL 2: one quad, one look-up each, all view settings in the shader. */
export class PlateRenderer {
  private readonly gl: WebGL2RenderingContext
  private readonly programs = new Map<string, ViewProgram>()
  private readonly plateTexture: WebGLTexture
  private readonly matteTexture: WebGLTexture
  private groundTexture: WebGLTexture | null = null
  private shownBitmap: ImageBitmap | null = null
  private shownGround: ImageBitmap | null = null
  /** What the matte texture shows. */
  private matte: MattePreview | null = null
  private matteSize = ''

  /** @throws Error when the browser has no WebGL 2 */
  constructor(private readonly canvas: HTMLCanvasElement) {
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false, depth: false, stencil: false })
    if (!gl) throw new Error('This browser offers no WebGL 2, which the viewer needs to draw the plate')
    this.gl = gl
    const quad = gl.createBuffer()
    gl.bindBuffer(gl.ARRAY_BUFFER, quad)
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([0, 0, 1, 0, 0, 1, 1, 1]), gl.STATIC_DRAW)
    gl.enableVertexAttribArray(CORNER)
    gl.vertexAttribPointer(CORNER, 2, gl.FLOAT, false, 0, 0)
    gl.clearColor(SURROUND, SURROUND, SURROUND, 1)
    this.plateTexture = this.makeTexture()
    this.matteTexture = this.makeTexture()
  }

  private programFor(defines: string): ViewProgram {
    let known = this.programs.get(defines)
    if (known) return known
    const { gl } = this
    const program = gl.createProgram()
    for (const [type, source] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, `#version 300 es\n${defines}${FRAGMENT}`],
    ] as const) {
      const shader = gl.createShader(type)!
      gl.shaderSource(shader, source)
      gl.compileShader(shader)
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? 'shader')
      gl.attachShader(program, shader)
    }
    gl.bindAttribLocation(program, CORNER, 'corner')
    gl.linkProgram(program)
    gl.useProgram(program)
    gl.uniform1i(gl.getUniformLocation(program, 'plate'), 0)
    gl.uniform1i(gl.getUniformLocation(program, 'matte'), 1)
    gl.uniform1i(gl.getUniformLocation(program, 'groundPicture'), 2)
    known = { program, places: new Map() }
    this.programs.set(defines, known)
    return known
  }

  private makeTexture(): WebGLTexture {
    const gl = this.gl
    const texture = gl.createTexture()
    gl.bindTexture(gl.TEXTURE_2D, texture)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_S, gl.CLAMP_TO_EDGE)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_WRAP_T, gl.CLAMP_TO_EDGE)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MIN_FILTER, gl.LINEAR)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, gl.LINEAR)
    return texture
  }

  setPlate(bitmap: ImageBitmap | null) {
    if (bitmap === this.shownBitmap) return
    this.shownBitmap = bitmap
    if (!bitmap) return
    const gl = this.gl
    gl.activeTexture(gl.TEXTURE0)
    gl.bindTexture(gl.TEXTURE_2D, this.plateTexture)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, bitmap)
  }

  private setGround(bitmap: ImageBitmap) {
    if (bitmap === this.shownGround) return
    this.shownGround = bitmap
    const gl = this.gl
    this.groundTexture ??= this.makeTexture()
    gl.activeTexture(gl.TEXTURE2)
    gl.bindTexture(gl.TEXTURE_2D, this.groundTexture)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, gl.RGBA, gl.UNSIGNED_BYTE, bitmap)
  }

  setMatte(matte: MattePreview | null) {
    if (matte === this.matte) return
    this.matte = matte
    if (!matte) return
    const gl = this.gl
    const { left, top, right, bottom } = stretchOf(matte)
    gl.activeTexture(gl.TEXTURE1)
    gl.bindTexture(gl.TEXTURE_2D, this.matteTexture)
    const size = `${right - left}x${bottom - top}`
    if (size !== this.matteSize) {
      this.matteSize = size
      gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, right - left, bottom - top, 0, gl.RGBA, gl.UNSIGNED_BYTE, null)
    }
    for (const { box, picture } of matte.bands) {
      gl.texSubImage2D(gl.TEXTURE_2D, 0, 0, box.top - top, gl.RGBA, gl.UNSIGNED_BYTE, picture)
    }
  }

  /** @param plateToScreen  from plate pixels to CSS pixels */
  draw(plateToScreen: Matrix3, view: View, plateWidth: number, plateHeight: number, pixelRatio: number) {
    const { gl, matte } = this
    const { width, height } = this.canvas
    const usesMatte = matte !== null && view.mode !== 'plate'
    const ground = view.mode === 'cutout' && view.cutoutGround === 'picture' ? view.groundPicture : null
    if (ground) this.setGround(ground.bitmap)
    const { program, places } = this.programFor(
      [
        `#define MODE ${MODES[view.mode]}`,
        `#define CHANNEL ${CHANNEL_NUMBERS[view.channel]}`,
        ...(this.shownBitmap ? ['#define PLATE'] : []),
        ...(view.exposure === 0 ? [] : ['#define EXPOSURE']),
        ...(view.gamma === 1 ? [] : ['#define GAMMA']),
        ...(usesMatte ? ['#define MATTE'] : []),
        ...(view.cutoutGround === 'checker' ? ['#define CHECKER'] : []),
        ...(ground ? ['#define GROUND_PICTURE'] : []),
      ].join('\n'),
    )
    const place = (name: string) => {
      if (!places.has(name)) places.set(name, gl.getUniformLocation(program, name))
      return places.get(name)!
    }
    gl.useProgram(program)
    gl.viewport(0, 0, width, height)
    gl.clear(gl.COLOR_BUFFER_BIT)
    // Nearest above 2:1, so that single pixels can be judged.
    const magnified = view.zoom * pixelRatio >= 2 ? gl.NEAREST : gl.LINEAR
    for (const [unit, texture] of [
      [gl.TEXTURE1, this.matteTexture],
      [gl.TEXTURE0, this.plateTexture],
    ] as const) {
      gl.activeTexture(unit)
      gl.bindTexture(gl.TEXTURE_2D, texture)
      gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, magnified)
    }
    gl.uniform2f(place('size'), width / pixelRatio, height / pixelRatio)
    gl.uniform2f(place('plateSize'), plateWidth, plateHeight)
    gl.uniformMatrix3fv(place('toScreen'), true, Float32Array.from(plateToScreen))
    gl.uniform1f(place('exposure'), view.exposure)
    gl.uniform1f(place('gamma'), view.gamma)
    gl.uniform1f(place('fillOpacity'), view.fillOpacity)
    gl.uniform3fv(place('groundColour'), view.cutoutGround === 'colour' ? channelsOf(view.groundColour) : PLAIN_GROUND)
    if (usesMatte) {
      const { left, top, right, bottom } = stretchOf(matte)
      gl.uniform4f(place('covered'), left, top, right - left, bottom - top)
      gl.uniform1f(place('matteScale'), matte.scale)
    }
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4)
  }
}

const PLAIN_GROUND = [0.22, 0.22, 0.22]

/** Channels of #rrggbb, 0 to 1. */
const channelsOf = (colour: string) => [1, 3, 5].map((at) => parseInt(colour.slice(at, at + 2), 16) / 255)

/** The pixels that a matte covers. */
const stretchOf = ({ box }: MattePreview) => box

/** Attribute of the quad's corners. */
const CORNER = 0
