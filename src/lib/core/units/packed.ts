// Numbers as text, in the byte order of all machines that this runs on: little-endian, base64.

export function packed(values: Float32Array | Float64Array | Uint16Array | Uint32Array): string {
  const bytes = new Uint8Array(values.buffer, values.byteOffset, values.byteLength);
  let text = "";
  for (let i = 0; i < bytes.length; i += 8192) text += String.fromCharCode(...bytes.subarray(i, i + 8192));
  return btoa(text);
}

export function unpacked(text: string): ArrayBuffer {
  return Uint8Array.from(atob(text), (c) => c.charCodeAt(0)).buffer;
}
