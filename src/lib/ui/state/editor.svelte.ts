// Everything that the parts of the edit screen share, handed down as one context.
import { getContext, setContext, untrack } from "svelte";
import type { ProjectState } from "$lib/api/types";
import type { Recording, Section, Track } from "$lib/core/session/schema";
import { programmeEnd } from "$lib/core/session/lookup";
import PainterWorker from "$lib/waveform/painter.worker?worker";
import type { FromPainter } from "$lib/waveform/protocol";
import { Tiles } from "$lib/waveform/tiles";
import type { Given } from "../shared/givenFiles";
import { notices } from "../shared/notices.svelte";
import type { MenuKind } from "./actions/menus";
import { Analysis } from "./analysis.svelte";
import { Batches } from "./batches.svelte";
import { ClipIndex } from "./clipIndex.svelte";
import { Examination } from "./examination.svelte";
import { FadePresets } from "./fadePresets.svelte";
import { Deliveries } from "./deliveries.svelte";
import { Hearing } from "./hearing.svelte";
import { Layout } from "./layout.svelte";
import { Jobs } from "./jobs.svelte";
import type { Clipboard } from "./clipboard";
import { Monitoring } from "./monitoring.svelte";
import { Preferences } from "./preferences.svelte";
import { Pops } from "./pops.svelte";
import { Pictures } from "./pictures.svelte";
import { Pull } from "./pull.svelte";
import { Presets } from "./presets.svelte";
import { Selection } from "./selection.svelte";
import { Session } from "./session.svelte";
import { Sounds } from "./sounds";
import type { Menu, Target } from "./menu";
import { Together } from "./together.svelte";
import { Transport } from "./transport.svelte";
import { Trials } from "./trial.svelte";
import { TimelineView } from "./view.svelte";

export type DialogName =
  | "render"
  | "export"
  | "measure"
  | "preset"
  | "paste"
  | "takeOff"
  | "shortcuts"
  | "actions"
  | "section"
  | "clips"
  | "repeat"
  | "trackRole"
  | "trackRemove"
  | "sectionName"
  | "recordingFade"
  | "allClips"
  | "cleanUp"
  | "dearest"
  | "soundTracks"
  | "recordingName"
  | "recordingFolder"
  | "recordingLabels"
  | "recordingAbout";

function paintedTiles(sampleRate: number): Tiles<ImageBitmap> {
  const worker = new PainterWorker();
  const tiles = new Tiles<ImageBitmap>(worker, sampleRate);
  worker.onmessage = ({ data }: MessageEvent<FromPainter<ImageBitmap>>) => tiles.hear(data);
  return tiles;
}

export class Editor {
  readonly session: Session;
  readonly selection: Selection;
  readonly view = new TimelineView();
  readonly layout = new Layout();
  /** Clips by time, as they are shown. */
  readonly clips: ClipIndex;
  readonly analysis: Analysis;
  readonly examination: Examination;
  /** Two clips that sound at the same time, in mono. */
  readonly together: Together;
  /** Which candidate is heard. */
  readonly hearing: Hearing;
  /** A preset or a batch, heard before it is applied. */
  readonly trials: Trials;
  readonly transport: Transport;
  readonly pictures: Pictures;
  /** What clips sound like where they meet. */
  readonly sounds: Sounds;
  readonly jobs: Jobs;
  readonly deliveries: Deliveries;
  readonly batches: Batches;
  readonly presets = new Presets();
  readonly fadePresets = new FadePresets();
  readonly tiles: Tiles<ImageBitmap>;
  readonly pull = new Pull();
  readonly preferences = new Preferences();
  readonly monitoring = new Monitoring();
  /** What was copied of the timeline. */
  clipboard = $state.raw<Clipboard | null>(null);
  dialog = $state<DialogName | null>(null);
  readonly pops = new Pops();
  /** What stands on the bench instead of the chosen step. */
  panel = $state<"fades" | "lines" | "examine" | "versions" | "history" | null>(null);
  /** Whether the field that adds a step replaces the chosen one instead. */
  replacing = $state(false);
  /** Beside the timeline while the project has no clips; later it slides over it when it is called. */
  shelfOpen = $state(false);
  menu = $state.raw<Menu | null>(null);
  #asked = $state<string | undefined>(undefined);
  #askedTrack = $state<string | undefined>(undefined);
  #askedSection = $state<string | undefined>(undefined);

  constructor(state: ProjectState) {
    this.session = new Session(state);
    this.clips = new ClipIndex(this.session.document);
    this.selection = new Selection(this.session);
    this.analysis = new Analysis(this.session, this.selection);
    this.examination = new Examination(this.session, this.selection);
    this.together = new Together(this.session, this.selection);
    this.hearing = new Hearing(this.session, this.selection, this.analysis);
    this.trials = new Trials(this.session);
    this.transport = new Transport(this.session, this.selection, this.hearing, this.trials);
    this.session.onshown = () => untrack(() => this.transport.giveDocument());
    this.sounds = new Sounds(this.session);
    this.deliveries = new Deliveries(this.session);
    this.batches = new Batches(this.session);
    this.pictures = new Pictures(() => this.jobs);
    this.jobs = new Jobs(this.session, (job) => {
      this.deliveries.heard(job);
      this.batches.heard(job);
      this.pictures.heard(job);
    });
    this.shelfOpen = this.session.document.size("clips") === 0;
    this.tiles = paintedTiles(this.session.document.sampleRate);
    this.fadePresets.load().catch((error: unknown) => notices.fault(error));
    this.presets.load().catch((error: unknown) => notices.fault(error));
  }

  get sampleRate(): number {
    return this.session.document.sampleRate;
  }

  /** What the menu that is open, or was last, was opened on. */
  get target(): Target | null {
    return this.menu?.target ?? null;
  }

  /** Opens a dialog about a recording. */
  askAbout(recording: Recording | undefined, dialog: DialogName): void {
    this.#asked = recording?.id;
    this.dialog = dialog;
  }

  /** Opens a dialog about a track. */
  askTrack(track: Track | undefined, dialog: DialogName): void {
    this.#askedTrack = track?.id;
    this.dialog = dialog;
  }

  /** The track that the open dialog is about. */
  get askedTrack(): Track | undefined {
    return this.#askedTrack === undefined ? undefined : this.session.shown.get("tracks", this.#askedTrack);
  }

  /** Opens a dialog about a section. */
  askSection(section: Section | undefined, dialog: DialogName): void {
    this.#askedSection = section?.id;
    this.dialog = dialog;
  }

  /** The section that the open dialog is about. */
  get askedSection(): Section | undefined {
    return this.#askedSection === undefined
      ? undefined
      : this.session.shown.get("sections", this.#askedSection);
  }

  /** The recording that the open dialog is about. */
  get asked(): Recording | undefined {
    return this.#asked === undefined ? undefined : this.session.shown.get("recordings", this.#asked);
  }

  /** Opens what a right click offers. */
  offer(event: MouseEvent, kind: MenuKind, label: string, target: Target | null = null): void {
    event.preventDefault();
    event.stopPropagation();
    const back =
      event.target instanceof Element ? event.target.closest<HTMLElement>("[tabindex], button, input") : null;
    this.offerAt({ x: event.clientX, y: event.clientY }, back, kind, label, target);
  }

  /** Opens a menu at a place of the window; the focus goes back where it is told to. */
  offerAt(
    { x, y }: { readonly x: number; readonly y: number },
    back: HTMLElement | null,
    kind: MenuKind,
    label: string,
    target: Target | null = null
  ): void {
    this.menu = { x, y, kind, label, target, back };
  }

  /** Puts the playhead at a frame, and that into sight. */
  goTo(frame: number): void {
    this.transport.locate(frame);
    this.view.reveal(this.transport.position, this.transport.position + 1);
  }

  /** Imports files; they come to lie on the shelf. */
  importFiles(given: Given): void {
    this.shelfOpen = true;
    this.jobs.importFiles(given);
  }

  /** Shows the whole programme, or a minute of an empty one. */
  showAll(): void {
    const end = programmeEnd(this.session.document);
    this.view.show(0, end > 0 ? end : this.sampleRate * 60);
  }

  close(): void {
    this.session.close();
    this.transport.close();
    this.hearing.close();
    this.trials.close();
    this.examination.forget();
    this.together.forget();
    this.analysis.close();
    this.jobs.close();
    this.tiles.close();
    this.sounds.close();
  }
}

const KEY = Symbol("editor");

export function provideEditor(editor: Editor): Editor {
  return setContext(KEY, editor);
}

export function useEditor(): Editor {
  return getContext<Editor>(KEY);
}
