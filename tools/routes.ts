// The addresses under /api, for docs/format.md; a test compares them with the files of src/routes/api.

export interface Route {
  readonly method: "GET" | "POST" | "DELETE" | "PATCH" | "HEAD" | "OPTIONS";
  readonly path: string;
  readonly what: string;
}

export const routes: readonly Route[] = [
  {
    method: "GET",
    path: "/api/projects",
    what: "All projects: those that cannot be read with the reason, those in the bin with the day"
  },
  { method: "POST", path: "/api/projects", what: "Makes a project" },
  { method: "GET", path: "/api/projects/[id]", what: "The whole of a project: document, revision, history" },
  { method: "DELETE", path: "/api/projects/[id]", what: "Puts a project into the bin" },
  { method: "POST", path: "/api/projects/[id]/restore", what: "Takes it out of the bin" },
  { method: "DELETE", path: "/api/bin/[id]", what: "Removes a project that is in the bin for good" },
  { method: "POST", path: "/api/projects/[id]/edits", what: "Makes edits" },
  { method: "GET", path: "/api/projects/[id]/edits", what: "What was accepted after a revision (`?after=`)" },
  {
    method: "GET",
    path: "/api/projects/[id]/events",
    what: "Server-sent events, each a list of news: accepted edits, jobs, the condition of recordings"
  },
  {
    method: "POST",
    path: "/api/projects/[id]/listen",
    what: "Learns, or measures a chain, on the server: answers in lines of JSON, progress and what is known so far, then the result"
  },
  {
    method: "GET",
    path: "/api/projects/[id]/jobs",
    what: "Jobs under way, and those that ended since a moment (`?since=`)"
  },
  { method: "POST", path: "/api/projects/[id]/jobs", what: "Orders a job" },
  {
    method: "POST",
    path: "/api/projects/[id]/renders",
    what: "Orders renders of clips, one job for each recording that is made"
  },
  {
    method: "POST",
    path: "/api/projects/[id]/history",
    what: "Changes earlier processes of a clip, and computes the rest again"
  },
  { method: "GET", path: "/api/projects/[id]/batches", what: "Batches with their reports, the newest first" },
  { method: "POST", path: "/api/projects/[id]/batches", what: "Orders a batch" },
  {
    method: "POST",
    path: "/api/projects/[id]/batches/[batch]/cancel",
    what: "Stops what of a batch has not ended"
  },
  { method: "GET", path: "/api/projects/[id]/sizes", what: "Bytes of its recordings" },
  { method: "GET", path: "/api/jobs/[id]", what: "A job" },
  { method: "POST", path: "/api/jobs/[id]/cancel", what: "Stops a job" },
  {
    method: "GET",
    path: "/api/jobs/[id]/file",
    what: "The file that an export or a delivery made, or a part of it (Range)"
  },
  {
    method: "GET",
    path: "/api/projects/[id]/deliveries",
    what: "Files that were delivered or are about to be"
  },
  { method: "POST", path: "/api/projects/[id]/deliveries", what: "Orders files: what, and how" },
  {
    method: "GET",
    path: "/api/projects/[id]/deliveries/files",
    what: "Delivered files as one ZIP (`?job=`, several)"
  },
  { method: "GET", path: "/api/projects/[id]/archive", what: "The whole project as one ZIP" },
  { method: "GET", path: "/api/projects/[id]/timeline", what: "The timeline as a bundle of OpenTimelineIO" },
  { method: "GET", path: "/api/delivery-presets", what: "Saved settings of deliveries" },
  {
    method: "POST",
    path: "/api/delivery-presets",
    what: "Saves settings, in place of those of the same name"
  },
  { method: "DELETE", path: "/api/delivery-presets/[id]", what: "Deletes settings" },
  { method: "GET", path: "/api/fade-presets", what: "Saved shapes of fades" },
  { method: "POST", path: "/api/fade-presets", what: "Saves shapes, in place of those of the same names" },
  { method: "PATCH", path: "/api/fade-presets/[id]", what: "Renames, notes or tags a shape" },
  { method: "DELETE", path: "/api/fade-presets/[id]", what: "Deletes a shape" },
  {
    method: "GET",
    path: "/api/recordings/[id]/file",
    what: "A recording's WAV file, or a part of it (Range)"
  },
  {
    method: "GET",
    path: "/api/recordings/[id]/video",
    what: "The file that it was decoded from: a video, for its picture (Range)"
  },
  {
    method: "GET",
    path: "/api/recordings/[id]/picture",
    what: "The small copy of a video's picture, or a part of it (Range)"
  },
  {
    method: "GET",
    path: "/api/recordings/[id]/chunks/[rate]/[chunk]",
    what: "Samples: 32768 frames, left then right, 32-bit float"
  },
  {
    method: "GET",
    path: "/api/recordings/[id]/overview/[rate]/[level]",
    what: "Bins of the waveform: least and largest value, a byte each"
  },
  { method: "POST", path: "/api/recordings/[id]/check", what: "Compares a recording's file with its hash" },
  { method: "GET", path: "/api/presets", what: "All presets" },
  {
    method: "POST",
    path: "/api/presets",
    what: "Saves a preset, over the one of its name if that is wanted"
  },
  { method: "PATCH", path: "/api/presets/[id]", what: "Renames, notes or tags a preset" },
  { method: "GET", path: "/api/presets/file", what: "Presets as a file" },
  { method: "POST", path: "/api/presets/file", what: "Saves the presets of a file" },
  { method: "DELETE", path: "/api/presets/[id]", what: "Deletes a preset" },
  { method: "GET", path: "/api/space", what: "What takes how much room" },
  { method: "DELETE", path: "/api/space", what: "Removes recordings that nothing needs" },
  { method: "GET", path: "/api/backups", what: "Backups of the database, the newest first" },
  { method: "POST", path: "/api/backups", what: "Puts a backup in place of a damaged database" },
  {
    method: "POST",
    path: "/api/projects/[id]/files",
    what: "Takes many short files: a line of JSON that tells them, then their bytes"
  },
  {
    method: "DELETE",
    path: "/api/projects/[id]/files/[key]",
    what: "Gives one of them up, arrived or not"
  },
  { method: "POST", path: "/api/uploads/[...path]", what: "Begins an upload (tus 1.0)" },
  { method: "PATCH", path: "/api/uploads/[...path]", what: "Sends a part of it" },
  { method: "HEAD", path: "/api/uploads/[...path]", what: "How much of it has arrived" },
  { method: "OPTIONS", path: "/api/uploads/[...path]", what: "What the upload protocol can do here" },
  { method: "DELETE", path: "/api/uploads/[...path]", what: "Gives it up" }
];
