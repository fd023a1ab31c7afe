// A picture as FLAC keeps it (RFC 9639, section 8.8). Ogg streams keep the same bytes as a comment, METADATA_BLOCK_PICTURE, in base64.

/** Front cover. */
const FRONT = 3;

/** @param mediaType "image/png" or "image/jpeg". What the picture itself says of its size is left 0, for unknown. */
export function pictureBlock(mediaType: string, picture: Uint8Array): Uint8Array {
  const type = new TextEncoder().encode(mediaType);
  const bytes = new Uint8Array(32 + type.length + picture.length);
  const view = new DataView(bytes.buffer);
  view.setUint32(0, FRONT);
  view.setUint32(4, type.length);
  bytes.set(type, 8);
  // Behind it: no description, width, height, colour depth, colours.
  view.setUint32(28 + type.length, picture.length);
  bytes.set(picture, 32 + type.length);
  return bytes;
}
