// Everything that the parts of the edit screen share, handed down as one context.
import { getContext, setContext } from "svelte";
import type { ProjectState } from "$lib/api/types";
import { programmeEnd } from "$lib/core/session/lookup";
import { Waveforms } from "$lib/playback/waveforms";
import { notices } from "../shared/notices.svelte";
import { Analysis } from "./analysis.svelte";
import { ClipIndex } from "./clipIndex.svelte";
import { Layout } from "./layout.svelte";
import { Jobs } from "./jobs.svelte";
import { Presets } from "./presets.svelte";
import { Selection } from "./selection.svelte";
import { Session } from "./session.svelte";
import { Transport } from "./transport.svelte";
import { TimelineView } from "./view.svelte";

export type DialogName = "render" | "export" | "measure" | "preset" | "shortcuts" | "actions" | "section";

export class Editor {
  readonly session: Session;
  readonly selection: Selection;
  readonly view = new TimelineView();
  readonly layout = new Layout();
  /** Clips by time, as they are shown. */
  readonly clips: ClipIndex;
  readonly analysis: Analysis;
  readonly transport: Transport;
  readonly jobs: Jobs;
  readonly presets = new Presets();
  readonly waveforms: Waveforms;
  /** Counts arrivals of waveform data: whoever draws depends on it. */
  drawn = $state(0);
  dialog = $state<DialogName | null>(null);
  shelfOpen = $state(true);

  constructor(state: ProjectState) {
    this.session = new Session(state);
    this.clips = new ClipIndex(this.session.document);
    this.selection = new Selection(this.session);
    this.analysis = new Analysis(this.session, this.selection);
    this.transport = new Transport(this.session, this.selection, this.analysis);
    this.jobs = new Jobs(this.session);
    this.waveforms = new Waveforms(this.session.document.sampleRate, () => this.drawn++);
    this.presets.load().catch((error: unknown) => notices.fault(error));
  }

  get sampleRate(): number {
    return this.session.document.sampleRate;
  }

  /** Shows the whole programme, or a minute of an empty one. */
  showAll(): void {
    const end = programmeEnd(this.session.document);
    this.view.show(0, end > 0 ? end : this.sampleRate * 60);
  }

  close(): void {
    this.session.close();
    this.transport.close();
    this.analysis.close();
    this.jobs.close();
  }
}

const KEY = Symbol("editor");

export function provideEditor(editor: Editor): Editor {
  return setContext(KEY, editor);
}

export function useEditor(): Editor {
  return getContext<Editor>(KEY);
}
