import type { PresetFacts, PresetsAdded, PresetView } from "$lib/api/presets";
import type { RecipeStep, Recording } from "$lib/core/session/schema";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";

export interface PresetText {
  readonly name: string;
  readonly notes: string;
  readonly tags: readonly string[];
}

/** The chains that come with Wring, and the saved ones. */
export class Presets {
  list = $state.raw<readonly PresetView[]>([]);

  get saved(): readonly PresetView[] {
    return this.list.filter((preset) => !preset.factory);
  }

  async load(): Promise<void> {
    try {
      this.list = await api.get<PresetView[]>("/api/presets");
    } catch (error) {
      notices.fault(error);
    }
  }

  /** Saves a chain; over the saved one of that name if that is wanted. Returns the refusal's sentence, undefined when it is saved. */
  async save(
    { name, notes, tags }: PresetText,
    steps: readonly RecipeStep[],
    recordings: readonly Recording[],
    over = false
  ): Promise<string | undefined> {
    try {
      // Ids are those of a chain: a preset has none of its own.
      const whole = steps.map((step) => ({ ...step, id: crypto.randomUUID() }));
      await api.post("/api/presets", { name, notes, tags, steps: whole, recordings, over });
      notices.news(`Preset "${name}" is saved.`);
    } catch (error) {
      return (error as Error).message;
    }
    await this.load();
    return undefined;
  }

  /** Changes what is said of a preset. Returns the refusal's sentence. */
  async set(id: string, facts: PresetFacts): Promise<string | undefined> {
    try {
      await api.patch(`/api/presets/${id}`, facts);
    } catch (error) {
      return (error as Error).message;
    }
    await this.load();
    return undefined;
  }

  /** Deletes a preset; it can be taken back from the message. */
  async remove(id: string): Promise<void> {
    const preset = this.list.find((one) => one.id === id);
    try {
      await api.remove(`/api/presets/${id}`);
      if (preset)
        notices.offer(`Preset "${preset.name}" is deleted.`, "Take it back", () => {
          this.save(preset, preset.steps, preset.recordings)
            .then((fault) => fault !== undefined && notices.fault(fault))
            .catch((error: unknown) => notices.fault(error));
        });
    } catch (error) {
      notices.fault(error);
    }
    await this.load();
  }

  /** Adds the presets of a file. */
  async addFile(file: File): Promise<void> {
    try {
      const { added, faults } = await api.post<PresetsAdded>("/api/presets/file", {
        fileName: file.name,
        text: await file.text()
      });
      for (const fault of faults) notices.fault(fault);
      if (added.length > 0)
        notices.news(
          added.length === 1 ? `Preset "${added[0]}" is added.` : `${added.length} presets are added.`
        );
      await this.load();
    } catch (error) {
      notices.fault(error);
    }
  }
}

/** Where a file with these presets is to be had. */
export function presetsFileUrl(ids: readonly string[]): string {
  const query = new URLSearchParams(ids.map((id) => ["id", id]));
  return `/api/presets/file?${query.toString()}`;
}
