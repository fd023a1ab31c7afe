import type { PresetView } from "$lib/api/types";
import type { Recording, Step } from "$lib/core/session/schema";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";

/** The saved chains. */
export class Presets {
  list = $state.raw<readonly PresetView[]>([]);

  async load(): Promise<void> {
    try {
      this.list = await api.get<PresetView[]>("/api/presets");
    } catch (error) {
      notices.fault(error);
    }
  }

  /** Saves a chain. Returns the refusal's sentence, undefined when it is saved. */
  async save(
    name: string,
    notes: string,
    steps: readonly Step[],
    recordings: readonly Recording[]
  ): Promise<string | undefined> {
    try {
      await api.post("/api/presets", { name, notes, steps, recordings });
      notices.news(`Preset "${name}" is saved.`);
    } catch (error) {
      return (error as Error).message;
    }
    await this.load();
    return undefined;
  }

  async remove(id: string): Promise<void> {
    await api.remove(`/api/presets/${id}`).catch((error: unknown) => notices.fault(error));
    await this.load();
  }
}
