import type { Matrix3 } from '@tender-lasso/core/geometry'
import type { Channel, View, ViewMode } from '../state/shotStore'

const VERTEX = `#version 300 es
in vec2 corner;
out vec2 screen;
uniform vec2 size;
void main() {
  screen = (corner * 0.5 + 0.5) * size;
  screen.y = size.y - screen.y;
  gl_Position = vec4(corner, 0.0, 1.0);
}`

// The plate is looked up at the plate position of each screen pixel, so that any homography (Steady) is exact.
// Exposure and gamma act for the eye only: decode by the sRGB curve, scale, encode, then gamma.
const FRAGMENT = `#version 300 es
precision highp float;
in vec2 screen;
out vec4 colour;
uniform mat3 toPlate;
uniform vec2 plateSize;
uniform sampler2D plate;
uniform sampler2D matte;
uniform int mode;
uniform int channel;
uniform float exposure;
uniform float gamma;
uniform float fillOpacity;
uniform bool hasPlate;
uniform bool hasMatte;
uniform bool checker;
uniform vec3 surround;

vec3 decoded(vec3 c) {
  return mix(c / 12.92, pow((c + 0.055) / 1.055, vec3(2.4)), step(0.04045, c));
}
vec3 encoded(vec3 c) {
  c = clamp(c, 0.0, 1.0);
  return mix(c * 12.92, 1.055 * pow(c, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, c));
}

void main() {
  vec3 h = toPlate * vec3(screen, 1.0);
  vec2 p = h.xy / h.z;
  if (h.z <= 0.0 || p.x < 0.0 || p.y < 0.0 || p.x >= plateSize.x || p.y >= plateSize.y) {
    colour = vec4(surround, 1.0);
    return;
  }
  vec3 c = hasPlate ? texture(plate, p / plateSize).rgb : vec3(0.16);
  if (exposure != 0.0) c = encoded(decoded(c) * exp2(exposure));
  if (gamma != 1.0) c = pow(c, vec3(1.0 / gamma));
  if (channel == 1) c = c.rrr;
  else if (channel == 2) c = c.ggg;
  else if (channel == 3) c = c.bbb;
  else if (channel == 4) c = vec3(dot(c, vec3(0.2126, 0.7152, 0.0722)));
  vec4 m = hasMatte ? texture(matte, p / plateSize) : vec4(0.0);
  if (mode == 1) c = c * (1.0 - m.a * fillOpacity) + m.rgb * fillOpacity;
  else if (mode == 2) c = vec3(m.a);
  else if (mode == 3) {
    vec3 ground = vec3(0.22);
    if (checker) ground = vec3(mod(floor(screen.x / 12.0) + floor(screen.y / 12.0), 2.0) < 1.0 ? 0.26 : 0.19);
    c = encoded(mix(decoded(ground), decoded(c), m.a));
  }
  colour = vec4(c, 1.0);
}`

const MODES: Record<ViewMode, number> = { plate: 0, fill: 1, matte: 2, cutout: 3 }
const CHANNEL_NUMBERS: Record<Channel, number> = { rgb: 0, red: 1, green: 2, blue: 3, luma: 4 }

/** Draws plate and matte with WebGL 2: one quad, one look-up each, all view settings in the shader. */
export class PlateRenderer {
  private readonly gl: WebGL2RenderingContext
  private readonly places = new Map<string, WebGLUniformLocation | null>()
  private readonly program: WebGLProgram
  private readonly plateTexture: WebGLTexture
  private readonly matteTexture: WebGLTexture
  private shownBitmap: ImageBitmap | null = null
  private hasMatte = false

  /** @throws Error when the browser has no WebGL 2 */
  constructor(private readonly canvas: HTMLCanvasElement) {
    const gl = canvas.getContext('webgl2', { alpha: false, antialias: false })
    if (!gl) throw new Error('This browser offers no WebGL 2, which the viewer needs to draw the plate')
    this.gl = gl
    this.program = gl.createProgram()
    for (const [type, source] of [
      [gl.VERTEX_SHADER, VERTEX],
      [gl.FRAGMENT_SHADER, FRAGMENT],
    ] as const) {
      const shader = gl.createShader(type)!
      gl.shaderSource(shader, source)
      gl.compileShader(shader)
      if (!gl.getShaderParameter(shader, gl.COMPILE_STATUS)) throw new Error(gl.getShaderInfoLog(shader) ?? 'shader')
      gl.attachShader(this.program, shader)
    }
    gl.linkProgram(this.program)
    gl.useProgram(this.program)
    const quad = gl.createBuffer()
    gl.bindBuffer(gl.ARRAY_BUFFER, quad)
    gl.bufferData(gl.ARRAY_BUFFER, new Float32Array([-1, -1, 1, -1, -1, 1, 1, 1]), gl.STATIC_DRAW)
    const corner = gl.getAttribLocation(this.program, 'corner')
    gl.enableVertexAttribArray(corner)
    gl.vertexAttribPointer(corner, 2, gl.FLOAT, false, 0, 0)
    this.plateTexture = this.makeTexture()
    this.matteTexture = this.makeTexture()
    gl.uniform1i(this.place('plate'), 0)
    gl.uniform1i(this.place('matte'), 1)
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

  private place(name: string): WebGLUniformLocation | null {
    if (!this.places.has(name)) this.places.set(name, this.gl.getUniformLocation(this.program, name))
    return this.places.get(name)!
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

  setMatte(matte: { width: number; height: number; data: Uint8ClampedArray<ArrayBuffer> } | null) {
    this.hasMatte = matte !== null
    if (!matte) return
    const gl = this.gl
    gl.activeTexture(gl.TEXTURE1)
    gl.bindTexture(gl.TEXTURE_2D, this.matteTexture)
    const bytes = new Uint8Array(matte.data.buffer)
    gl.texImage2D(gl.TEXTURE_2D, 0, gl.RGBA, matte.width, matte.height, 0, gl.RGBA, gl.UNSIGNED_BYTE, bytes)
  }

  /** @param screenToPlate  from CSS pixels to plate pixels */
  draw(screenToPlate: Matrix3, view: View, plateWidth: number, plateHeight: number, pixelRatio: number) {
    const gl = this.gl
    const { width, height } = this.canvas
    gl.viewport(0, 0, width, height)
    // Nearest above 2:1, so that single pixels can be judged.
    const magnified = view.zoom * pixelRatio >= 2 ? gl.NEAREST : gl.LINEAR
    gl.activeTexture(gl.TEXTURE1)
    gl.bindTexture(gl.TEXTURE_2D, this.matteTexture)
    gl.activeTexture(gl.TEXTURE0)
    gl.bindTexture(gl.TEXTURE_2D, this.plateTexture)
    gl.texParameteri(gl.TEXTURE_2D, gl.TEXTURE_MAG_FILTER, magnified)
    gl.uniform2f(this.place('size'), width / pixelRatio, height / pixelRatio)
    gl.uniform2f(this.place('plateSize'), plateWidth, plateHeight)
    gl.uniformMatrix3fv(this.place('toPlate'), true, Float32Array.from(screenToPlate))
    gl.uniform1i(this.place('mode'), MODES[view.mode])
    gl.uniform1i(this.place('channel'), CHANNEL_NUMBERS[view.channel])
    gl.uniform1f(this.place('exposure'), view.exposure)
    gl.uniform1f(this.place('gamma'), view.gamma)
    gl.uniform1f(this.place('fillOpacity'), view.fillOpacity)
    gl.uniform1i(this.place('hasPlate'), this.shownBitmap ? 1 : 0)
    gl.uniform1i(this.place('hasMatte'), this.hasMatte ? 1 : 0)
    gl.uniform1i(this.place('checker'), view.cutoutGround === 'checker' ? 1 : 0)
    gl.uniform3f(this.place('surround'), 0.117, 0.117, 0.117)
    gl.drawArrays(gl.TRIANGLE_STRIP, 0, 4)
  }
}
