// What a file that is no WAV holds, as ffprobe tells it.
import { z } from "zod";
import { FileFault } from "$lib/core/formats/fault";
import type { OutputFormat } from "$lib/core/formats/wavWriter";
import { mp3Filling } from "./mp3Length";
import { ended, startTool } from "./tools";

const PROBE_MS = 60000;
const MOST_CHANNELS = 8;
const MOST_BYTES = 4 << 20;

const streamSchema = z.object({
  index: z.number(),
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  sample_fmt: z.string().optional(),
  sample_rate: z.coerce.number().optional(),
  channels: z.number().optional(),
  bits_per_raw_sample: z.coerce.number().optional(),
  time_base: z.string().optional(),
  duration_ts: z.number().optional(),
  duration: z.coerce.number().optional(),
  start_time: z.coerce.number().optional(),
  width: z.number().optional(),
  height: z.number().optional(),
  avg_frame_rate: z.string().optional(),
  disposition: z.record(z.string(), z.number()).optional(),
  tags: z.record(z.string(), z.string()).optional()
});

const chapterSchema = z.object({
  start_time: z.coerce.number(),
  end_time: z.coerce.number(),
  tags: z.record(z.string(), z.string()).optional()
});

const sideDataSchema = z.object({
  side_data_type: z.string().optional(),
  skip_samples: z.number().optional()
});

const probeSchema = z.object({
  chapters: z.array(chapterSchema).default([]),
  streams: z.array(streamSchema).default([]),
  format: z
    .object({
      format_name: z.string(),
      start_time: z.coerce.number().optional(),
      duration: z.coerce.number().optional(),
      tags: z.record(z.string(), z.string()).optional()
    })
    .optional(),
  frames: z.array(z.object({ pts_time: z.coerce.number().optional() })).optional(),
  packets: z.array(z.object({ side_data_list: z.array(sideDataSchema).optional() })).optional()
});

export type Probe = z.infer<typeof probeSchema>;

/** The sound of a file that is to be decoded. */
export interface ProbedSound {
  /** Index of its stream in the file. */
  readonly stream: number;
  readonly format: string;
  readonly codec: string;
  readonly sampleRate: number;
  readonly channels: number;
  /** As the samples are kept: exact for what is coded without loss in up to 24 bits. */
  readonly kept: OutputFormat;
  /** Frames that the file says it has; undefined when nothing in it tells. */
  readonly frames: number | undefined;
  /** Frames after which the sound is over although more can be decoded: what fills a coder's last block. */
  readonly cut: number | undefined;
  /** Seconds at which its first sample stands in a video's time. */
  readonly begins: number;
  /** Why its length or its place cannot be exact; null: they are. */
  readonly note: string | null;
  /** All that ffprobe tells of the file. */
  readonly told: Probe;
}

async function ask(file: string, before: readonly string[]): Promise<Probe & { readonly guessed: boolean }> {
  const child = startTool("ffprobe", file, ["-v", "warning", "-of", "json", ...before], []);
  let text = "";
  child.stdout?.on("data", (data: Buffer) => {
    if (text.length < MOST_BYTES) text += data.toString("utf8");
  });
  const { code, complaint } = await ended(child, PROBE_MS);
  if (complaint.includes("moov atom not found"))
    throw new FileFault("its end, without which it cannot be read, is missing");
  if (code !== 0) throw new FileFault("it holds no sound that can be read");
  const parsed = probeSchema.safeParse(JSON.parse(text || "{}"));
  if (!parsed.success) throw new FileFault("it holds no sound that can be read");
  return { ...parsed.data, guessed: complaint.includes("Estimating duration") };
}

function keptAs({
  sample_fmt: format = "",
  bits_per_raw_sample: bits = 32
}: Probe["streams"][number]): OutputFormat {
  if (/^(u8|s16)p?$/.test(format)) return "int16";
  return /^s32p?$/.test(format) && bits > 0 && bits <= 24 ? "int24" : "float32";
}

/** Frames of a stream by its own clock. */
function ownFrames({
  duration_ts: ticks,
  time_base: base = "",
  sample_rate: rate = 0
}: Probe["streams"][number]) {
  const match = /^(\d+)\/(\d+)$/.exec(base);
  if (ticks === undefined || !match) return undefined;
  return Math.round((ticks * Number(match[1]) * rate) / Number(match[2]));
}

/** Frames by the tag in which Matroska keeps when each stream ends, as 00:00:01.900000000. */
function framesByTag({ tags, start_time: start = 0, sample_rate: rate = 0 }: Probe["streams"][number]) {
  const match = /^(\d+):(\d\d):(\d\d(?:\.\d+)?)$/.exec(tags?.DURATION ?? "");
  if (!match) return undefined;
  const end = Number(match[1]) * 3600 + Number(match[2]) * 60 + Number(match[3]);
  return end > start ? Math.round((end - start) * rate) : undefined;
}

/** What stands beside the samples in a stream's first packet. */
async function firstPacket(file: string, index: number): Promise<z.infer<typeof sideDataSchema>[]> {
  const how = ["-show_packets", "-read_intervals", "%+#1", "-select_streams", String(index)];
  return (await ask(file, how)).packets?.[0]?.side_data_list ?? [];
}

/**
 * Length of the sound in an MP4 or MOV. The edit list tells it in a coarse clock; where it only takes a coder's lead-in away, what the track holds
 * without it, less that lead-in, is exact. Found on files of two rates with and without priming.
 * @throws FileFault when it is encrypted
 */
async function movFrames(
  file: string,
  index: number,
  own: number,
  rate: number
): Promise<number | undefined> {
  const whole = await ask(file, ["-ignore_editlist", "1", "-show_streams"]);
  const all = ownFrames(whole.streams.find((s) => s.index === index) ?? { index: -1 });
  const beside = await firstPacket(file, index);
  // ISO/IEC 23001-7: it would be decoded to noise.
  if (beside.some((s) => s.side_data_type === "Encryption info")) throw new FileFault("it is encrypted");
  const skipped = beside.find((s) => s.skip_samples !== undefined)?.skip_samples ?? 0;
  if (all === undefined) return own;
  // Where the sound begins late, ffprobe tells the whole of it in either way.
  return own === all || Math.abs(all - skipped - own) <= rate / 1000 ? all - skipped : own;
}

/** Whether a stream is moving pictures, not a cover. */
export function isPicture({ codec_type: type, disposition }: Probe["streams"][number]): boolean {
  return type === "video" && disposition?.attached_pic !== 1;
}

/** Seconds by which a sound begins after the first picture of its file: a difference of starts, as players have it. */
export function sincePicture({ begins, told }: Pick<ProbedSound, "begins" | "told">): number {
  return begins - (told.streams.find(isPicture)?.start_time ?? 0);
}

/**
 * When the first sample stands, in seconds, which is later than the stream's start where a coder's lead-in is cut. Some coders give no sound
 * for their first packet.
 */
async function firstSample(file: string, { index, start_time: start = 0 }: Probe["streams"][number]) {
  const how = ["-show_frames", "-read_intervals", "%+#8", "-select_streams", String(index)];
  return (await ask(file, how)).frames?.[0]?.pts_time ?? start;
}

/** The length that some coders leave in a tag: 4th number, in hexadecimal. */
function taggedFrames(tags: Record<string, string> | undefined): number | undefined {
  const field = tags?.iTunSMPB?.trim().split(/\s+/)[3];
  return field && /^[0-9a-fA-F]{8,16}$/.test(field) ? parseInt(field, 16) : undefined;
}

/** How late sound begins where nothing tells its coder's delay, ms at 48 kHz: found by decoding files of known sound. */
const DELAY_MS: Readonly<Record<string, number>> = { mp3: 25, aac: 21, dts: 11, mp2: 10, ac3: 5, eac3: 5 };

/** What is known to come out inexact, found in the same way. */
function inexact(format: string, codec: string, guessed: boolean): string | null {
  const mp4 = format.startsWith("mov");
  if (guessed && codec === "mp3")
    return "The file does not tell its length: it begins about 25 ms late and may end late.";
  if (codec.startsWith("wma"))
    return "WMA is not exact to the sample: some 40 ms at its ends may be missing.";
  const delay = DELAY_MS[codec];
  if (delay && !mp4 && !(codec === "mp3" && format === "mp3"))
    return `The file does not tell its coder's delay: it begins about ${delay} ms late.`;
  if ((codec === "vorbis" && format.startsWith("matroska")) || (codec.endsWith("ac3") && mp4))
    return "The file does not tell where its sound ends: it may be some milliseconds longer.";
  return null;
}

/**
 * @param stream the sound track to take; the default one when left out
 * @throws FileFault when it holds no sound that can be used
 */
export async function probe(file: string, stream?: number): Promise<ProbedSound> {
  const { guessed, ...told } = await ask(file, ["-show_format", "-show_streams", "-show_chapters"]);
  const { streams, format } = told;
  const sounds = streams.filter((s) => s.codec_type === "audio");
  const chosen = sounds.find((s) => s.index === stream);
  if (stream !== undefined && !chosen) throw new FileFault("it has no such sound track");
  const sound = chosen ?? sounds.find((s) => s.disposition?.default === 1) ?? sounds[0];
  if (!sound)
    throw new FileFault(streams.length > 0 ? "it has no sound" : "it holds no sound that can be read");
  const { sample_rate: rate = 0, channels = 0, codec_name: codec } = sound;
  if (!codec) throw new FileFault("its sound is coded in a way that cannot be read");
  if (rate < 8000 || rate > 384000)
    throw new FileFault(`its sample rate of ${rate} Hz lies outside 8 to 384 kHz`);
  if (channels < 1 || channels > MOST_CHANNELS)
    throw new FileFault(`it has ${channels} channels; up to ${MOST_CHANNELS} can be used`);
  const name = format?.format_name ?? "";
  // How long the whole file is says how long its sound is only where there is nothing else in it.
  const alone = streams.length === 1 ? format?.duration : undefined;
  const own = ownFrames(sound) ?? framesByTag(sound) ?? (alone && Math.round(alone * rate));
  const cut = name.startsWith("mov")
    ? (taggedFrames(sound.tags) ??
      taggedFrames(format?.tags) ??
      (own ? await movFrames(file, sound.index, own, rate) : undefined))
    : undefined;
  const whole = own && codec === "mp3" && name === "mp3" ? own - (mp3Filling(file) ?? 0) : own;
  return {
    stream: sound.index,
    format: name,
    codec,
    sampleRate: rate,
    channels,
    kept: keptAs(sound),
    frames: guessed || !whole ? undefined : (cut ?? whole),
    cut,
    begins: streams.some(isPicture) ? await firstSample(file, sound) : (sound.start_time ?? 0),
    note: inexact(name, codec, guessed),
    told
  };
}
