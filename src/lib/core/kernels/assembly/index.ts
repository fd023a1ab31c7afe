// The one WebAssembly binary of the core. Pure functions on pointers; the caller owns all memory.
export * from "./exact";
export * from "./biquad";
export * from "./compressor";
export * from "./convert";
export * from "./fade";
export * from "./levels";
export * from "./limiter";
export * from "./mix";
export * from "./overview";
export * from "./resample";
export * from "./truepeak";

/** First byte that the caller may hand out; everything below belongs to the module. */
export function heapBase(): usize {
  return __heap_base;
}
