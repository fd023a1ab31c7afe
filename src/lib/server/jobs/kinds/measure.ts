import { z } from "zod";
import { config } from "../../config";
import { filesOf, recordingName, recordingsOfClips } from "../../services/recordings";
import { loadProject } from "../../services/projects";
import { jobKind } from "./kind";
import { storedClip } from "./storedClip";

/** A clip's levels, untreated and treated. */
export const measuring = jobKind({
  kind: "measure",
  order: z.object({ kind: z.literal("measure"), clip: storedClip }),
  // Who asked is no longer there to hear the answer.
  resumes: false,
  fault: ({ clip }, fault) => `"${clip.name}" was not measured: ${fault}.`,
  room: ({ clip }) => Promise.resolve({ bytes: 0, what: `"${clip.name}" was not measured` }),
  async prepare({ clip }, { projectId, scratch }) {
    const { document } = await loadProject(projectId);
    const { sampleRate } = document;
    const files = await filesOf(recordingsOfClips([clip]), sampleRate, (id) => recordingName(document, id));
    return { kind: "measure", dataFolder: config.dataFolder, scratch, clip, sampleRate, files };
  },
  complete: (_order, result) => Promise.resolve({ view: result })
});
