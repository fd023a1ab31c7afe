import { binary } from "./binary.generated";
import type { Kernels } from "./interface.generated";

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
