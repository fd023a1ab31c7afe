// What a right click offers, by what lies under it: actions of the list, by their ids; "" is a line between them.
export const MENUS = {
  clip: [
    "render",
    "restore",
    "measure",
    "preset",
    "",
    "split",
    "beginHere",
    "endHere",
    "duplicate",
    "mute",
    "remove",
    "",
    "rangeClip",
    "zoomClip",
    "originalTime",
    "recordingSections",
    "",
    "trackChain",
    "recordingChain",
    "recordingClips"
  ],
  track: [
    "trackChain",
    "trackMute",
    "trackSolo",
    "trackClips",
    "",
    "laneLow",
    "laneMiddle",
    "laneHigh",
    "",
    "waveTaller",
    "waveLower",
    "waveTrue",
    "",
    "track",
    "trackRemove"
  ],
  section: ["sectionRange", "zoomSection", "sectionRemove"],
  step: [
    "stepOn",
    "stepUp",
    "stepDown",
    "stepDefault",
    "",
    "spanRange",
    "spanWhole",
    "",
    "stepRemove",
    "clearChain"
  ],
  recording: [
    "recordingAdd",
    "recordingOriginal",
    "recordingSections",
    "recordingTracks",
    "",
    "recordingChain",
    "recordingClips",
    "recordingAbout",
    "",
    "recordingName",
    "recordingFolder",
    "recordingLabels",
    "",
    "recordingRemove"
  ],
  ruler: ["rangeFrom", "rangeTo", "noRange", "section", "", "zoomIn", "zoomOut", "zoomRange", "zoomAll"]
} as const satisfies Record<string, readonly string[]>;

export type MenuKind = keyof typeof MENUS;
