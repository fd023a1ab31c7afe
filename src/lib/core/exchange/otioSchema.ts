// OpenTimelineIO's JSON, as far as sound needs it: names and fields of the public specification of its schemas (Timeline.1, Stack.1, Track.1, Clip.2,
// Gap.1, Marker.2, TimeRange.1, RationalTime.1, ExternalReference.1, MissingReference.1). Fields that are not known are left alone.
import { z } from "zod";

export const timeSchema = z.looseObject({ rate: z.number().positive(), value: z.number() });
export type RationalTime = z.infer<typeof timeSchema>;

export const rangeSchema = z.looseObject({ start_time: timeSchema, duration: timeSchema });
export type TimeRange = z.infer<typeof rangeSchema>;

const metadata = z.record(z.string(), z.unknown()).optional();

const referenceSchema = z.looseObject({
  OTIO_SCHEMA: z.string(),
  target_url: z.string().optional(),
  available_range: rangeSchema.nullish()
});

export const markerSchema = z.looseObject({
  name: z.string().default(""),
  marked_range: rangeSchema
});

/** A clip, a gap, a transition, or something that is not known. Clip.1 has `media_reference`, Clip.2 has several by key. */
export const itemSchema = z.looseObject({
  OTIO_SCHEMA: z.string(),
  name: z.string().nullish(),
  source_range: rangeSchema.nullish(),
  media_reference: referenceSchema.nullish(),
  media_references: z.record(z.string(), referenceSchema).optional(),
  active_media_reference_key: z.string().optional(),
  metadata
});
export type OtioItem = z.infer<typeof itemSchema>;

export const trackSchema = z.looseObject({
  OTIO_SCHEMA: z.string(),
  name: z.string().nullish(),
  kind: z.string().default("Audio"),
  children: z.array(itemSchema).default([]),
  metadata
});

export const timelineSchema = z.looseObject({
  OTIO_SCHEMA: z.string().regex(/^Timeline\.\d+$/, "is no OpenTimelineIO timeline"),
  name: z.string().nullish(),
  global_start_time: timeSchema.nullish(),
  metadata,
  tracks: z.looseObject({
    OTIO_SCHEMA: z.string(),
    children: z.array(trackSchema).default([]),
    markers: z.array(markerSchema).default([])
  })
});
export type OtioTimeline = z.infer<typeof timelineSchema>;
