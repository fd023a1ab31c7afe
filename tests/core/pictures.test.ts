// Which picture belongs to a place on the timeline.
import { describe, expect, it } from "vitest";
import {
  inStep,
  middleOfPicture,
  momentAt,
  videoClips,
  videoText
} from "../../src/lib/core/session/pictures";
import { documentOf, newClip, newProject, newRecording, newTrack } from "../../src/lib/core/session/make";
import type { About } from "../../src/lib/core/session/schema";

function about(offset: number | null): About {
  const video = offset === null ? null : { container: "mp4", offset, width: 160, height: 90, frameRate: 25 };
  return {
    file: "a.mp4",
    format: "MP4",
    tags: {},
    origin: null,
    markers: [],
    video,
    sounds: [],
    stream: null,
    note: null
  };
}

const recording = (id: string, offset: number | null) =>
  newRecording(
    id,
    { name: id, media: null, frames: 480000, channels: 1, sampleRate: 48000, kind: "import" },
    null,
    { about: about(offset) }
  );

const late = recording("late", 0.5);
const early = recording("early", -0.02);
const sound = recording("sound", null);
const doc = documentOf(newProject("P", 48000), {
  tracks: [newTrack("t", "T", 1)],
  recordings: [late, early, sound],
  clips: [
    newClip("b", "t", early, 96000, { length: 48000 }),
    newClip("a", "t", late, 48000, { offset: 24000, length: 96000 }),
    newClip("c", "t", sound, 0, { length: 300000 }),
    newClip("d", "t", late, 144000, { length: 48000, muted: true })
  ]
});
const at = (seconds: number) => momentAt(videoClips(doc), seconds * 48000, 48000);

describe("the picture under the playhead", () => {
  it("is that of the clip which began last, where its window and its offset say", () => {
    expect(videoClips(doc).map(({ clip }) => clip.id)).toEqual(["a", "b", "d"]);
    expect(at(0.5)).toBeUndefined();
    // Half a second into the clip, which begins half a second into the sound, which begins half a second after the picture.
    expect(at(1.5)).toMatchObject({ recording: { id: "late" }, seconds: 1.5, sincePicture: 1.5 });
    // Its picture begins 20 ms after the sound: a file begins with whichever is first.
    expect(at(2.25)).toMatchObject({ recording: { id: "early" }, seconds: 0.25 });
    expect(at(2.25)?.sincePicture).toBeCloseTo(0.23, 9);
    expect(at(3.5)).toBeUndefined();
  });

  it("is told against its sound in words", () => {
    const told = (offset: number) =>
      videoText({ container: "mkv", width: 320, height: 180, frameRate: 25, offset });
    expect(told(-0.021)).toBe(
      "320 × 180, 25.00 pictures a second; the sound begins 21 ms before the picture"
    );
    expect(told(0.5)).toMatch(/; the sound begins 500 ms after the picture$/);
    expect(told(0.0004)).toMatch(/; the sound begins with the picture$/);
  });

  it("is asked for in its middle", () => {
    expect(middleOfPicture(0, 25)).toBeCloseTo(0.02, 9);
    expect(middleOfPicture(0.04, 25)).toBeCloseTo(0.06, 9);
    expect(middleOfPicture(0.0799, 25)).toBeCloseTo(0.06, 9);
    expect(middleOfPicture(1001 / 30000, 30000 / 1001)).toBeCloseTo((1.5 * 1001) / 30000, 9);
    expect(middleOfPicture(1.23, 0)).toBe(1.23);
  });

  it("runs on when it is in step, a little slower or faster when it is not, and jumps when it is far off", () => {
    expect(inStep(0.005)).toEqual({ speed: 1, jump: false });
    expect(inStep(0.02)).toEqual({ speed: 0.95, jump: false });
    expect(inStep(-0.1)).toEqual({ speed: 1.1, jump: false });
    expect(inStep(0.3)).toEqual({ speed: 1, jump: true });
  });
});
