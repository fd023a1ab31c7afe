import { binary } from "./binary.generated";

/** The functions of the binary (see assembly/ for what each does). Pointers are byte addresses; blocks are planar f32. */
export interface Kernels {
  readonly memory: WebAssembly.Memory;
  heapBase(): number;
  sin(x: number): number;
  cos(x: number): number;
  tan(x: number): number;
  exp(x: number): number;
  log(x: number): number;
  pow(x: number, y: number): number;
  biquads(
    l: number,
    r: number,
    n: number,
    coefs: number,
    state: number,
    sections: number,
    scratch: number
  ): void;
  flushStates(state: number, sections: number): void;
  kWeightedSteps(
    l: number,
    r: number,
    n: number,
    coefs: number,
    state: number,
    step: number,
    out: number
  ): number;
  compressorCurve(level: number, threshold: number, slope: number, knee: number): number;
  compressor(
    l: number,
    r: number,
    sideL: number,
    sideR: number,
    n: number,
    params: number,
    state: number
  ): void;
  limiterReset(state: number, capacity: number, window: number): void;
  limiter(
    l: number,
    r: number,
    n: number,
    params: number,
    state: number,
    capacity: number,
    fine: number,
    coarse: number,
    work: number
  ): void;
  autocorrelation(x: number, n: number, most: number, out: number): void;
  predictionErrors(x: number, n: number, a: number, order: number, past: number, future: number): void;
  burg(x: number, n: number, order: number, reflections: number, forward: number, backward: number): number;
  peak(p: number, n: number): number;
  truePeak(p: number, n: number, taps: number, history: number, work: number, running: number): number;
  levels(p: number, n: number, sums: number): number;
  firstNotFinite(p: number, n: number): number;
  overview(p: number, n: number, size: number, out: number): void;
  gain(p: number, n: number, g: number): void;
  addScaled(dst: number, src: number, n: number, g: number): void;
  addRamped(dst: number, src: number, n: number, from: number, step: number): void;
  clear(p: number, n: number): void;
  copy(dst: number, src: number, n: number): void;
  fadeGain(t: number, curve: number): number;
  fade(
    l: number,
    r: number,
    n: number,
    position: number,
    direction: number,
    length: number,
    curve: number
  ): void;
  fromUint8(src: number, frames: number, channels: number, dst: number, stride: number): void;
  fromInt16(src: number, frames: number, channels: number, dst: number, stride: number): void;
  fromInt24(src: number, frames: number, channels: number, dst: number, stride: number): void;
  fromInt32(src: number, frames: number, channels: number, dst: number, stride: number): void;
  fromFloat32(src: number, frames: number, channels: number, dst: number, stride: number): void;
  fromFloat64(src: number, frames: number, channels: number, dst: number, stride: number): void;
  toInt(
    src: number,
    stride: number,
    frames: number,
    channels: number,
    dst: number,
    bytes: number,
    seed: number
  ): number;
  toFloat32(src: number, stride: number, frames: number, channels: number, dst: number): void;
  fft(xr: number, xi: number, yr: number, yi: number, n: number, table: number): void;
  multiply(dst: number, a: number, b: number, n: number): void;
  multiplyAdd(dst: number, a: number, b: number, n: number): void;
  turn(x: number, re: number, im: number, n: number, turns: number): void;
  turnBack(re: number, im: number, out: number, rest: number, n: number, turns: number): void;
  placeSpectrum(re: number, im: number, n: number, spectra: number, p: number, count: number): void;
  convolvePartitions(
    re: number,
    im: number,
    past: number,
    response: number,
    bins: number,
    count: number,
    first: number
  ): void;
  pairPower(zr: number, zi: number, out: number, n: number): void;
  pairGain(zr: number, zi: number, gains: number, n: number, yr: number, yi: number): void;
  noiseRatio(power: number, inverse: number, work: number, out: number, bins: number): void;
  subtractionGains(
    ring: number,
    stride: number,
    count: number,
    first: number,
    rows: number,
    gains: number,
    bins: number,
    over: number,
    floor: number
  ): void;
  fir(x: number, y: number, n: number, line: number, taps: number, count: number): void;
  delayPair(l: number, r: number, n: number, line: number, size: number, index: number): void;
  wetDry(wet: number, dry: number, n: number, share: number): void;
  matrix(l: number, r: number, n: number, a: number, b: number, c: number, d: number): void;
  offset(p: number, n: number, value: number): void;
  sum(p: number, n: number): number;
  clippedRuns(p: number, n: number, level: number, least: number, run: number): number;
  expanderCurve(level: number, threshold: number, slope: number, range: number, knee: number): number;
  gate(l: number, r: number, n: number, params: number, state: number): void;
  echo(l: number, r: number, n: number, params: number, state: number): void;
  modulatedDelay(
    l: number,
    r: number,
    n: number,
    params: number,
    state: number,
    table: number,
    keep: number
  ): void;
  allpass(x: number, n: number, ring: number, length: number, index: number, g: number): number;
  reverb(l: number, r: number, n: number, rings: number, gains: number, state: number, sound: number): void;
  transient(l: number, r: number, n: number, params: number, state: number): void;
  transientReset(state: number): void;
  deEss(l: number, r: number, bandL: number, bandR: number, n: number, params: number, state: number): void;
  reverse(p: number, n: number): void;
  log2(x: number): number;
  exp2(x: number): number;
  resamplePair(
    srcL: number,
    srcR: number,
    available: number,
    dstL: number,
    dstR: number,
    wanted: number,
    table: number,
    taps: number,
    phases: number,
    step: number,
    cursor: number
  ): number;
}

function decode(text: string): Uint8Array<ArrayBuffer> {
  const raw = atob(text);
  const bytes = new Uint8Array(raw.length);
  for (let i = 0; i < raw.length; i++) bytes[i] = raw.charCodeAt(i);
  return bytes;
}

function instantiate(): Kernels {
  const module = new WebAssembly.Module(decode(binary));
  const abort = () => {
    throw new Error("A kernel of the core aborted.");
  };
  const instance = new WebAssembly.Instance(module, { env: { abort } });
  return instance.exports as unknown as Kernels;
}

/** One instance for each thread: the binary keeps no state outside the memory that its callers own. */
export const kernels: Kernels = instantiate();
