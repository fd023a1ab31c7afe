// OpenTimelineIO: what goes out comes back, and what others wrote by the public specification is read.
import { describe, expect, it } from "vitest";
import { fromOtio, mediaOf, parseOtio, rateOfTimeline } from "../../src/lib/core/exchange/fromOtio";
import { leftOut, rowsOf, toOtio } from "../../src/lib/core/exchange/toOtio";
import {
  documentOf,
  newChain,
  newClip,
  newProject,
  newRecording,
  newSection,
  newStep,
  newTrack
} from "../../src/lib/core/session/make";
import { documentFault } from "../../src/lib/core/session/validate";

const recording = (id: string) =>
  newRecording(id, {
    name: `Take ${id}`,
    media: null,
    frames: 96000,
    channels: 1,
    sampleRate: 48000,
    kind: "import"
  });
const fade = (length: number) => ({ length, shape: { curve: "smooth" as const } });

function example() {
  const recordings = [recording("a"), recording("b")];
  const [a, b] = recordings;
  return documentOf(newProject("Ferry", 48000), {
    recordings,
    tracks: [
      newTrack("t1", "Voice", 1, { gainDb: -3, pan: 0.25 }),
      newTrack("t2", "Wind", 2, { muted: true })
    ],
    clips: [
      newClip("c1", "t1", a, 1000, { offset: 500, length: 40000, fadeIn: fade(4800), gainDb: 2.5 }),
      // Overlaps the one before it: a crossfade.
      newClip("c2", "t1", b, 38000, { length: 50000, fadeOut: fade(960), muted: true }),
      newClip("c3", "t1", a, 90000, { length: 10 }),
      newClip("c4", "t2", b, 0)
    ],
    sections: [newSection("s1", "Opening", 0, 48000)]
  });
}

const json = (doc: ReturnType<typeof example>) => JSON.stringify(toOtio(doc, (id) => `media/${id}.wav`));
const found = (url: string) => recording(url.replace(/^media\/|\.wav$/g, ""));
/** Clips without ids, by where they begin. */
const plain = (doc: ReturnType<typeof example>) =>
  [...doc.values("clips")]
    .map(({ id: _id, track, ...clip }) => ({ ...clip, track: doc.get("tracks", track)?.name }))
    .sort((x, y) => x.start - y.start || (x.name < y.name ? -1 : 1));

describe("a timeline", () => {
  it("comes back with the same clips, fades, gains, tracks and sections", () => {
    const doc = example();
    const { document, missing } = fromOtio(parseOtio(json(doc)), found);
    expect(missing).toEqual([]);
    expect(documentFault(document)).toBeUndefined();
    expect(plain(document)).toEqual(plain(doc));
    const tracks = (d: typeof doc) => [...d.values("tracks")].map(({ id: _id, ...track }) => track);
    expect(tracks(document)).toEqual(tracks(doc));
    const sections = (d: typeof doc) => [...d.values("sections")].map(({ id: _id, ...section }) => section);
    expect(sections(document)).toEqual(sections(doc));
    expect([document.name, document.sampleRate]).toEqual(["Ferry", 48000]);
  });

  it("has no two clips of a track at one time: rows are made", () => {
    const rows = rowsOf([...example().values("clips")].filter((clip) => clip.track === "t1"));
    expect(rows.map((row) => row.map(({ id }) => id))).toEqual([["c1", "c3"], ["c2"]]);
  });

  it("names its media once each, and says what it cannot carry", () => {
    expect(mediaOf(parseOtio(json(example())))).toEqual(["media/a.wav", "media/b.wav"]);
    expect(leftOut(example())).toEqual([]);
    const doc = documentOf(newProject("P", 48000), {
      recordings: [recording("a")],
      tracks: [newTrack("t", "T", 1, { chain: "x" })],
      chains: [newChain("x", [newStep("s", "gain")])]
    });
    expect(leftOut(doc)[0]).toMatch(/^steps of clips/);
  });
});

describe("a timeline that others wrote", () => {
  // Written by hand from the public specification: Clip.1 with its single reference, 24 frames a second, a gap, a transition, pictures, no metadata.
  const time = (value: number) => ({ OTIO_SCHEMA: "RationalTime.1", rate: 24, value });
  const range = (start: number, length: number) => ({
    OTIO_SCHEMA: "TimeRange.1",
    start_time: time(start),
    duration: time(length)
  });
  const clip = (name: string, url: string | undefined, start: number, length: number) => ({
    OTIO_SCHEMA: "Clip.1",
    name,
    source_range: range(start, length),
    media_reference: url
      ? { OTIO_SCHEMA: "ExternalReference.1", target_url: url }
      : { OTIO_SCHEMA: "MissingReference.1" }
  });
  const foreign = {
    OTIO_SCHEMA: "Timeline.1",
    name: "Reel 1",
    tracks: {
      OTIO_SCHEMA: "Stack.1",
      children: [
        { OTIO_SCHEMA: "Track.1", name: "V1", kind: "Video", children: [] },
        {
          OTIO_SCHEMA: "Track.1",
          name: "A1",
          kind: "Audio",
          children: [
            clip("One", "media/a.wav", 12, 24),
            {
              OTIO_SCHEMA: "Transition.1",
              transition_type: "SMPTE_Dissolve",
              in_offset: time(2),
              out_offset: time(2)
            },
            { OTIO_SCHEMA: "Gap.1", source_range: range(0, 12) },
            clip("Two", undefined, 0, 24),
            clip("Three", "media/b.wav", 36, 24)
          ]
        }
      ]
    }
  };

  it("is read at 48 kHz, and what is left out is named", () => {
    const timeline = parseOtio(JSON.stringify(foreign));
    expect(rateOfTimeline(timeline)).toBe(48000);
    const { document, missing } = fromOtio(timeline, found);
    expect(documentFault(document)).toBeUndefined();
    expect(plain(document).map(({ name, start, offset, length }) => [name, start, offset, length])).toEqual([
      ["One", 0, 24000, 48000],
      ["Three", 120000, 72000, 24000]
    ]);
    expect(missing).toEqual([
      'the track "V1" holds no sound (Video)',
      "a transition at 1.000 s",
      '"Two": its audio is not there',
      '"Three" is longer than its audio and was cut'
    ]);
  });

  it.each([
    ["{", /is not JSON/],
    ["{}", /its timeline is not right: OTIO_SCHEMA/],
    ['{"OTIO_SCHEMA":"Clip.1"}', /is no OpenTimelineIO timeline/],
    [
      '{"OTIO_SCHEMA":"Timeline.1","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","children":[7]}]}}',
      /tracks.children.0.children.0/
    ]
  ])("that is none (%s) is a fault", (text, sentence) => {
    expect(() => parseOtio(text)).toThrow(sentence);
  });
});
