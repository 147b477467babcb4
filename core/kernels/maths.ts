// Transcendental functions for tables: the host's own may differ between engines in the last bit, these cannot.
export function exp(x: f64): f64 {
  return Math.exp(x)
}
export function log(x: f64): f64 {
  return Math.log(x)
}
export function pow(x: f64, y: f64): f64 {
  return Math.pow(x, y)
}
export function sin(x: f64): f64 {
  return Math.sin(x)
}
export function cos(x: f64): f64 {
  return Math.cos(x)
}
export function atan2(y: f64, x: f64): f64 {
  return Math.atan2(y, x)
}
