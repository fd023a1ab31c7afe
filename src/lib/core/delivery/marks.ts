// Sections as markers of a delivered file.
import type { Marker } from "../formats/cues";
import type { Document } from "../session/document";
import { sectionsInOrder } from "../session/lookup";
import type { DeliveryItem } from "./items";

/** How the frames of an item lie in its file. */
export interface Laid {
  /** Frames of the file for one of the project. */
  readonly ratio: number;
  /** Frames of the file that are cut away before its sound, less those of silence put there. */
  readonly cut: number;
  /** Frames of the whole file. */
  readonly frames: number;
}

/** The sections that begin or go on in an item, in frames of its file. Clips and recordings have none: sections lie on the timeline. */
export function marksOf(document: Document, { sound, from, to }: DeliveryItem, laid: Laid): Marker[] {
  if (sound !== "mix" && sound !== "track") return [];
  const place = (frame: number) =>
    Math.max(0, Math.min(laid.frames, Math.round((frame - from) * laid.ratio) - laid.cut));
  return sectionsInOrder(document)
    .filter((section) => section.start < to && section.start + section.length > from)
    .map(({ name, start, length }) => ({
      name,
      start: place(start),
      length: place(start + length) - place(start)
    }))
    .filter((marker) => marker.start < laid.frames);
}
