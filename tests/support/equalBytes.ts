// Sounds and files that are the same byte for byte are told equal at once: element by element that takes seconds for each of them.
import { expect } from "vitest";

const bytesOf = (view: ArrayBufferView) => Buffer.from(view.buffer, view.byteOffset, view.byteLength);

expect.addEqualityTesters([
  (a: unknown, b: unknown) => {
    if (!ArrayBuffer.isView(a) || !ArrayBuffer.isView(b) || a.constructor !== b.constructor) return undefined;
    // Where bytes differ the usual comparison says so, and where.
    return bytesOf(a).equals(bytesOf(b)) ? true : undefined;
  }
]);
