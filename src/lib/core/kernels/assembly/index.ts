// The one WebAssembly binary of the core. Pure functions on pointers; the caller owns all memory.
export * from "./exact";
export { biquads, flushStates } from "./biquad";
export * from "./kWeighting";
export * from "./compressor";
export * from "./convert";
export * from "./denoise";
export * from "./echo";
export * from "./fade";
export * from "./fast";
export * from "./fft";
export * from "./fingerprint";
export * from "./fir";
export * from "./gains";
export * from "./gate";
export * from "./levels";
export * from "./limiter";
export * from "./mix";
export * from "./modulation";
export * from "./overview";
export * from "./partitions";
export * from "./prediction";
export * from "./resample";
export * from "./reverb";
export * from "./sparse";
export * from "./spectrum";
export * from "./transient";
export * from "./steadypeak";
export { peak, truePeak } from "./truepeak";
export * from "./wetdry";

/** First byte that the caller may hand out; everything below belongs to the module. */
export function heapBase(): usize {
  return __heap_base;
}
