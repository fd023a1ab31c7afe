import { fadePresetsSchema, type FadeFacts, type FadePresetsFile, type FadePresetView } from "$lib/api/fades";
import type { FadeShape } from "$lib/core/session/schema";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";
import { saveText } from "./saveText";

/** The saved shapes of fades. */
export class FadePresets {
  list = $state.raw<readonly FadePresetView[]>([]);

  async load(): Promise<void> {
    this.list = await api.get<FadePresetView[]>("/api/fade-presets");
  }

  async #post(fades: FadePresetsFile["fades"]): Promise<boolean> {
    try {
      this.list = await api.post<FadePresetView[]>("/api/fade-presets", {
        wring: "fades",
        version: 1,
        fades
      });
      return true;
    } catch (error) {
      notices.fault(error);
      return false;
    }
  }

  /** Saves a shape. Returns its id; undefined when it was refused. */
  async save(name: string, shape: FadeShape): Promise<string | undefined> {
    if (!(await this.#post([{ name, shape }]))) return undefined;
    notices.news(`Fade preset "${name}" is saved.`);
    return this.list.find((preset) => preset.name === name)?.id;
  }

  /** Changes what is said of a preset. Returns the refusal's sentence. */
  async set(id: string, facts: FadeFacts): Promise<string | undefined> {
    try {
      await api.patch(`/api/fade-presets/${id}`, facts);
    } catch (error) {
      return (error as Error).message;
    }
    await this.load();
    return undefined;
  }

  /** Deletes a preset; it can be taken back from the message. */
  remove(id: string): void {
    const preset = this.list.find((one) => one.id === id);
    api
      .remove(`/api/fade-presets/${id}`)
      .then(() => {
        if (preset)
          notices.offer(`Fade preset "${preset.name}" is deleted.`, "Take it back", () => this.#back(preset));
        return this.load();
      })
      .catch((error: unknown) => notices.fault(error));
  }

  #back({ name, notes, tags, shape }: FadePresetView): void {
    this.#post([{ name, notes, tags: [...tags], shape }]).catch((error: unknown) => notices.fault(error));
  }

  /** Saves all of them as a file. */
  toFile(): void {
    const fades = this.list.map(({ name, notes, tags, shape }) => ({ name, notes, tags, shape }));
    saveText(
      JSON.stringify({ wring: "fades", version: 1, fades }, null, 2),
      "Fades.json",
      "application/json"
    );
  }

  /** Adds those of a file; of the same names the file's count. */
  fromFile(file: File): void {
    file
      .text()
      .then(async (text) => {
        const parsed = fadePresetsSchema.safeParse(jsonOf(text));
        if (!parsed.success) throw new Error(`"${file.name}" is not a file of fade presets.`);
        if (await this.#post(parsed.data.fades))
          notices.news(`${parsed.data.fades.length} fade presets are added.`);
      })
      .catch((error: unknown) => notices.fault(error));
  }
}

function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    // It is told as what it is not.
    return undefined;
  }
}
