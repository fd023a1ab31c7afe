// The video that an item goes back into.
import { existsSync } from "node:fs";
import type { DeliveryItem } from "$lib/core/delivery/items";
import { forVideo, type DeliverySettings } from "$lib/core/delivery/settings";
import { FileFault } from "$lib/core/formats/fault";
import type { Document } from "$lib/core/session/document";
import { sourcePath } from "../media/paths";
import type { VideoFile } from "./intoVideo";

/**
 * The video of an item and the settings that fit it; neither changes anything for items that are none.
 * @throws FileFault when the video is not kept
 */
export function videoOfItem(
  document: Document,
  { sound, id }: DeliveryItem,
  settings: DeliverySettings,
  dataFolder: string
): { readonly video: VideoFile | undefined; readonly settings: DeliverySettings } {
  if (sound !== "video") return { video: undefined, settings };
  const recording = document.get("recordings", id);
  const { about } = recording ?? {};
  if (!recording?.media || !about?.video) throw new FileFault("it came from no video");
  const file = sourcePath(dataFolder, recording.media);
  if (!existsSync(file)) throw new FileFault("the video is no longer kept");
  const { channels, sampleRate } = recording;
  const { stream, video } = about;
  return {
    video: { file, stream, container: video.container, sampleRate },
    settings: forVideo(settings, channels)
  };
}
