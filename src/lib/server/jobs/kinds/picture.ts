import { existsSync } from "node:fs";
import { z } from "zod";
import { config } from "../../config";
import { UserFault } from "../../faults";
import { pictureName, picturePath, sourcePath } from "../../media/paths";
import { PICTURE_BYTES_PER_SECOND } from "../../media/picture";
import { MediaStore } from "../../media/store";
import { jobKind } from "./kind";

/** A small copy of a video's picture, for browsers that cannot show the video itself. Made once for each file. */
export const picturing = jobKind({
  kind: "picture",
  order: z.object({
    kind: z.literal("picture"),
    recordingId: z.string(),
    name: z.string(),
    media: z.string(),
    seconds: z.number()
  }),
  resumes: true,
  fault: ({ name }, fault) => `The picture of "${name}" was not copied: ${fault}.`,
  room: ({ name, seconds }) =>
    Promise.resolve({
      bytes: Math.ceil(2 * seconds * PICTURE_BYTES_PER_SECOND),
      what: `The picture of "${name}" was not copied`
    }),
  prepare({ name, media, seconds }, { scratch }) {
    const base = { dataFolder: config.dataFolder, scratch };
    if (existsSync(picturePath(config.dataFolder, media)))
      return Promise.resolve({ ...base, kind: "nothing" as const });
    const file = sourcePath(config.dataFolder, media);
    if (!existsSync(file)) throw new UserFault(410, `The video of "${name}" is not kept.`);
    return Promise.resolve({ ...base, kind: "picture" as const, file, name: pictureName(media), seconds });
  },
  complete({ recordingId }, _result, { scratch }) {
    new MediaStore(config.dataFolder).adoptCaches(scratch);
    return Promise.resolve({ view: { recordingId } });
  }
});
