// Elementary functions compiled into the binary, so that every engine gives the same bits:
// a host's own Math.sin or Math.pow may differ in the last place between versions.
export function sin(x: f64): f64 {
  return Math.sin(x);
}
export function cos(x: f64): f64 {
  return Math.cos(x);
}
export function tan(x: f64): f64 {
  return Math.tan(x);
}
export function exp(x: f64): f64 {
  return Math.exp(x);
}
export function log(x: f64): f64 {
  return Math.log(x);
}
export function pow(x: f64, y: f64): f64 {
  return Math.pow(x, y);
}
