// Tracks: the one that a menu was opened on, else that of the selection.
import { LANES } from "../layout.svelte";
import { trackOf } from "../target";
import { addTrack, moveTrack } from "../editing";
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
  {
    id: "trackUp",
    name: "Move the track up",
    keys: "Shift+ArrowUp",
    enabled: withTrack,
    run: (e) => moveTrack(e, -1)
  },
  {
    id: "trackDown",
    name: "Move the track down",
    keys: "Shift+ArrowDown",
    enabled: withTrack,
    run: (e) => moveTrack(e, 1)
  },
  {
    id: "trackRole",
    name: "Say what the track is for…",
    enabled: withTrack,
    run: (e) => e.askTrack(trackOf(e), "trackRole")
  },
  {
    id: "trackGainLine",
    name: "Show or hide the track's gain line",
    enabled: withTrack,
    run: (e) => {
      const track = trackOf(e);
      if (track) e.layout.toggleTrackLine(track.id, "gain");
    }
  },
  {
    id: "trackPanLine",
    name: "Show or hide the track's pan line",
    enabled: withTrack,
    run: (e) => {
      const track = trackOf(e);
      if (track) e.layout.toggleTrackLine(track.id, "pan");
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
      if (!track) return;
      // With clips on it one is asked first.
      if (e.clips.end(track.id) > 0) e.askTrack(track, "trackRemove");
      else e.session.run({ type: "track.remove", trackId: track.id });
    }
  }
];
