// Tracks: the one that a menu was opened on, else that of the selection.
import { LANES } from "../layout.svelte";
import { trackOf } from "../target";
import { addTrack } from "../editing";
import type { Action } from "./action";
import { always, withTrack } from "./when";
import type { Editor } from "../editor.svelte";

const setLane = (height: number) => (e: Editor) => {
  const track = trackOf(e);
  if (track) e.layout.setLane(track.id, height);
};

const taller = (factor: number) => (e: Editor) => {
  const track = trackOf(e);
  if (track) e.layout.taller(track.id, factor);
};

export const tracks: readonly Action[] = [
  { id: "track", name: "Add a track", keys: "t", enabled: always, run: addTrack },
  {
    id: "trackChain",
    name: "Put the track on the bench",
    enabled: withTrack,
    run: (e) => {
      const track = trackOf(e);
      if (track) e.selection.chooseOwner({ table: "tracks", id: track.id });
    }
  },
  {
    id: "trackMute",
    name: "Mute the track, or let it sound",
    enabled: withTrack,
    run: (e) => {
      const track = trackOf(e);
      if (track) e.session.run({ type: "track.set", trackId: track.id, muted: !track.muted });
    }
  },
  {
    id: "trackSolo",
    name: "Solo the track, on or off",
    enabled: withTrack,
    run: (e) => {
      const track = trackOf(e);
      if (track) e.session.run({ type: "track.set", trackId: track.id, solo: !track.solo });
    }
  },
  {
    id: "trackClips",
    name: "Select all clips of the track",
    enabled: withTrack,
    run: (e) => {
      const track = trackOf(e);
      if (track)
        e.selection.chooseAll(e.clips.overlapping(track.id, 0, e.clips.end(track.id)).map((clip) => clip.id));
    }
  },
  { id: "laneLow", name: "Lane of the track low", enabled: withTrack, run: setLane(LANES.low) },
  {
    id: "laneMiddle",
    name: "Lane of the track of middle height",
    enabled: withTrack,
    run: setLane(LANES.middle)
  },
  { id: "laneHigh", name: "Lane of the track high", enabled: withTrack, run: setLane(LANES.high) },
  { id: "waveTaller", name: "Draw the track's waveforms taller", enabled: withTrack, run: taller(2) },
  { id: "waveLower", name: "Draw the track's waveforms lower", enabled: withTrack, run: taller(0.5) },
  {
    id: "waveTrue",
    name: "Draw the track's waveforms as loud as they are",
    enabled: withTrack,
    run: taller(0)
  },
  {
    id: "trackRemove",
    name: "Remove the track",
    enabled: withTrack,
    run: (e) => {
      const track = trackOf(e);
      if (track) e.session.run({ type: "track.remove", trackId: track.id });
    }
  }
];
