import { flattenSegment, SEGMENT, SEGMENT_STRIDE, SMALLEST_WEIGHT, type HomogeneousOutline } from './rational'
import { PointBuffer } from './pointBuffer'

/** Stretches of a segment, in each of which its chords are of one length in its parameter. */
const STRETCHES = 6

/** Greatest ratio of the weights of a segment that is stepped; what is seen more steeply than that is halved until it is flat. */
const STEEPEST = 4

/** The density beside another one is taken as at least so much of it: at an inflection it has a notch. */
const LEAST_SHARE = 0.8

const MOST_CHORDS = 1 << 14

/** Cube of the affine length of a chord, over what it errs: see {@link flattenByArea}. */
const LENGTH_CUBED = 57.2

/** Affine length, in chords, up to which a segment is a single one, of which all lies inside: two dozen of them may round one pixel. */
const SINGLE = 0.2

/** Affine length that the two chords at the anchors lack of whole ones together. */
const SHORT_ENDS = 2 - Math.SQRT2

const buffer = new PointBuffer()
/** Affine length per parameter at the ends of the stretches: as it is, and as it is taken. */
const found = new Float64Array(STRETCHES + 1)
const densities = new Float64Array(STRETCHES + 1)
/** A segment's numerators and denominator by powers of its parameter. */
const X = new Float64Array(4)
const Y = new Float64Array(4)
const W = new Float64Array(4)
/** Position, first derivative, and what the first and second one span, at the place last looked at. */
const place = { x: 0, y: 0, ddx: 0, ddy: 0, area: 0 }

/**
 * The closed outline as a polygon that covers of every pixel what the outline covers, but for `error` of the pixel at each edge that crosses it.
 *
 * The curve lies outside of its chords. Where every vertex is set 2/3 of the sagitta s outside, a chord of length L leaves as much area on one side as on the other,
 * and a pixel's side that cuts it anywhere parts at most 0.064 s L of it, beside an anchor 0.070 s L; two sides cut the chords of an edge through a pixel.
 * With s = L^2 / (8 R) that is 0.0175 L^3 / R: chords of one error are those of one affine length, the integral of R^(-1/3) along the curve (Blaschke, "Vorlesungen ueber
 * Differentialgeometrie II", 1923), of which a segment's parameter takes the cube root of the area that its first two derivatives span. Anchors stay where they
 * are; the chords beside them are 1/sqrt(2) as long in the parameter, which keeps their areas equal as well.
 *
 * @param error  share of a pixel
 */
export function flattenByArea(outline: HomogeneousOutline, error: number): Float64Array {
  buffer.length = 0
  const count = outline.length / SEGMENT_STRIDE
  const chord = Math.cbrt(LENGTH_CUBED * error)
  for (let i = 0; i < count; i++) {
    const from = i * SEGMENT_STRIDE
    const next = i + 1 === count ? 0 : from + SEGMENT_STRIDE
    if (load(outline, from, next)) step(chord)
    else flattenSegment(outline, from, next, error, buffer)
  }
  return buffer.toArray()
}

/** Takes a segment up; false where it reaches behind the vanishing line or nearly so. */
function load(o: HomogeneousOutline, from: number, next: number): boolean {
  const w0 = o[from + 2]!
  const w1 = o[from + SEGMENT.leaving + 2]!
  const w2 = o[from + SEGMENT.arriving + 2]!
  const w3 = o[next + 2]!
  const least = Math.min(w0, w1, w2, w3)
  if (least <= SMALLEST_WEIGHT || Math.max(w0, w1, w2, w3) > STEEPEST * least) return false
  powers(X, o[from]!, o[from + 3]!, o[from + 6]!, o[next]!)
  powers(Y, o[from + 1]!, o[from + 4]!, o[from + 7]!, o[next + 1]!)
  powers(W, w0, w1, w2, w3)
  return true
}

function powers(out: Float64Array, p0: number, p1: number, p2: number, p3: number) {
  out[0] = p0
  out[1] = 3 * (p1 - p0)
  out[2] = 3 * (p0 - 2 * p1 + p2)
  out[3] = p3 - p0 + 3 * (p1 - p2)
}

/** Looks at a place of the segment: of P / w the derivative is (P' - p w') / w, and the first two span det(P, P', P'') / w^3. */
function look(t: number) {
  const x = ((X[3]! * t + X[2]!) * t + X[1]!) * t + X[0]!
  const dx = (3 * X[3]! * t + 2 * X[2]!) * t + X[1]!
  const ddx = 6 * X[3]! * t + 2 * X[2]!
  const y = ((Y[3]! * t + Y[2]!) * t + Y[1]!) * t + Y[0]!
  const dy = (3 * Y[3]! * t + 2 * Y[2]!) * t + Y[1]!
  const ddy = 6 * Y[3]! * t + 2 * Y[2]!
  const w = ((W[3]! * t + W[2]!) * t + W[1]!) * t + W[0]!
  const dw = (3 * W[3]! * t + 2 * W[2]!) * t + W[1]!
  const ddw = 6 * W[3]! * t + 2 * W[2]!
  const inverse = 1 / w
  place.x = x * inverse
  place.y = y * inverse
  const firstX = (dx - place.x * dw) * inverse
  const firstY = (dy - place.y * dw) * inverse
  place.ddx = (ddx - 2 * firstX * dw - place.x * ddw) * inverse
  place.ddy = (ddy - 2 * firstY * dw - place.y * ddw) * inverse
  place.area = firstX * place.ddy - firstY * place.ddx
}

/** Chords of the segment that was taken up, each at most `chord` long by affine length. */
function step(chord: number) {
  for (let i = 0; i <= STRETCHES; i++) {
    look(i / STRETCHES)
    if (i === 0) buffer.push(place.x, place.y)
    found[i] = Math.cbrt(Math.abs(place.area))
  }
  let length = 0
  for (let i = 0; i <= STRETCHES; i++) {
    densities[i] = Math.max(found[i]!, LEAST_SHARE * Math.max(i > 0 ? found[i - 1]! : 0, i < STRETCHES ? found[i + 1]! : 0)) // prettier-ignore
    if (i > 0) length += (densities[i - 1]! + densities[i]!) / (2 * STRETCHES)
  }
  if (!(length > SINGLE * chord)) return
  const chords = Math.min(MOST_CHORDS, Math.max(2, Math.ceil(length / chord + SHORT_ENDS)))
  const each = length / (chords - SHORT_ENDS)
  let stretch = 0
  /** Affine length at the beginning of the stretch, and of it. */
  let passed = 0
  let own = (densities[0]! + densities[1]!) / (2 * STRETCHES)
  for (let k = 1; k < chords; k++) {
    const reached = (k - SHORT_ENDS / 2) * each
    while (stretch + 1 < STRETCHES && passed + own < reached) {
      passed += own
      stretch++
      own = (densities[stretch]! + densities[stretch + 1]!) / (2 * STRETCHES)
    }
    // The density runs straight along a stretch.
    const first = densities[stretch]!
    const left = reached - passed
    const density = Math.sqrt(first * first + 2 * STRETCHES * left * (densities[stretch + 1]! - first))
    look(stretch / STRETCHES + (2 * left) / (first + density))
    // Along the affine normal, so that the chords of a parabola keep their areas however sharply it turns.
    const outside = (each * each) / (12 * density * density)
    buffer.push(place.x - outside * place.ddx, place.y - outside * place.ddy)
  }
}
