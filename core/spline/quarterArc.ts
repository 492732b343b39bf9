/**
 * Tangent of a cubic that stands for a quarter circle, over its radius: (4/3) tan(pi/8) (Goldapp, "Approximation of
 * circular arcs by cubic polynomials", 1991).
 */
export const QUARTER_ARC_TANGENT = (4 / 3) * Math.tan(Math.PI / 8)
