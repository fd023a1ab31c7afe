// What a WAV file says of itself: broadcast extension, cue points, iXML, and the texts of a LIST chunk.
import { readBext } from "$lib/core/formats/bext";
import { readMarkers, type Marker } from "$lib/core/formats/cues";
import { letters, viewOf } from "$lib/core/formats/wavChunks";
import { WavFile } from "../wavFile";
import { ixmlTags } from "./ixml";

export interface FileFacts {
  readonly tags: Record<string, string>;
  /** In frames of the file. */
  readonly markers: readonly Marker[];
  /** Frames since midnight; null: not told. */
  readonly origin: number | null;
}

/** Texts of `LIST`/`INFO` (Microsoft/IBM RIFF, 1991) by the names that other containers have for them. */
const INFO: Readonly<Record<string, string>> = {
  INAM: "title",
  IART: "artist",
  IPRD: "album",
  ICMT: "comment",
  ICRD: "date",
  IGNR: "genre",
  ICOP: "copyright"
};

function infoTags(list: Uint8Array): Record<string, string> {
  if (list.length < 4 || letters(list, 0) !== "INFO") return {};
  const tags: Record<string, string> = {};
  for (let at = 4; at + 8 <= list.length;) {
    const length = viewOf(list).getUint32(at + 4, true);
    const name = INFO[letters(list, at)];
    const text = new TextDecoder()
      .decode(list.subarray(at + 8, at + 8 + length))
      .replace(/\0[^]*$/, "")
      .trim();
    if (name && text !== "") tags[name] = text;
    at += 8 + length + (length % 2);
  }
  return tags;
}

/** Reads a WAV file's own texts and places. */
export function wavFacts(file: string): FileFacts {
  const wav = new WavFile(file);
  try {
    const chunks = wav.chunks(["bext", "cue ", "LIST", "iXML"]);
    const all = (id: string) => chunks.filter((chunk) => chunk.id === id).map(({ body }) => body);
    const [bext] = all("bext").map((body) => readBext(body));
    const [cue] = all("cue ");
    const lists = all("LIST");
    const named = {
      description: bext?.description ?? "",
      originator: bext?.originator ?? "",
      date: bext?.date ?? ""
    };
    const own = Object.fromEntries(Object.entries(named).filter(([, value]) => value !== ""));
    const tags = Object.assign({}, own, ...lists.map(infoTags), ...all("iXML").map(ixmlTags)) as Record<
      string,
      string
    >;
    return { tags, markers: cue ? readMarkers(cue, lists) : [], origin: bext ? bext.timeReference : null };
  } finally {
    wav.close();
  }
}
