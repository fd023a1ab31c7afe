// What is delivered of a project: how, and what became of it.
import type { DeliveryPresetView, DeliveryView } from "$lib/api/delivery";
import type { JobView } from "$lib/api/jobs";
import type { Wanted } from "$lib/core/delivery/items";
import { DELIVERY_PRESETS } from "$lib/core/delivery/presets";
import { deliverySettingsSchema, standardSettings, type DeliverySettings } from "$lib/core/delivery/settings";
import { api } from "../shared/api";
import { notices } from "../shared/notices.svelte";
import type { Session } from "./session.svelte";

/** A preset that can be chosen. */
export interface Choice {
  /** null: it comes with Wring. */
  readonly id: string | null;
  readonly name: string;
  readonly settings: DeliverySettings;
}

export class Deliveries {
  /** The newest first. */
  list = $state.raw<readonly DeliveryView[]>([]);
  saved = $state.raw<readonly DeliveryPresetView[]>([]);
  #settings = $state.raw<DeliverySettings>(standardSettings());

  constructor(private readonly session: Session) {
    this.#settings = this.#remembered();
  }

  get #key(): string {
    return `wring.delivery.${this.session.projectId}`;
  }

  #remembered(): DeliverySettings {
    const text = localStorage.getItem(this.#key);
    if (text === null) return standardSettings();
    try {
      const parsed = deliverySettingsSchema.safeParse({
        ...standardSettings(),
        ...(JSON.parse(text) as object)
      });
      return parsed.success ? parsed.data : standardSettings();
    } catch {
      // What an older version left, or a hand has changed.
      return standardSettings();
    }
  }

  get settings(): DeliverySettings {
    return this.#settings;
  }

  /** Changes settings; this browser remembers them for the project. */
  change(part: Partial<DeliverySettings>): void {
    this.#settings = { ...this.#settings, ...part };
    // A cover is too large to be remembered here; a preset keeps it.
    localStorage.setItem(this.#key, JSON.stringify({ ...this.#settings, cover: null }));
  }

  get choices(): readonly Choice[] {
    return [...DELIVERY_PRESETS.map((preset) => ({ id: null, ...preset })), ...this.saved];
  }

  async load(): Promise<void> {
    try {
      const own = `/api/projects/${this.session.projectId}/deliveries`;
      [this.list, this.saved] = await Promise.all([
        api.get<DeliveryView[]>(own),
        api.get<DeliveryPresetView[]>("/api/delivery-presets")
      ]);
    } catch (error) {
      notices.fault(error);
    }
  }

  /** News of a job; those of other kinds are none of ours. */
  heard(job: JobView): void {
    const known = this.list.find((one) => one.job.id === job.id);
    if (!known) return;
    const delivered = job.state === "done" ? (job.result as DeliveryView["delivered"]) : null;
    const now = { ...known, job, delivered, kept: delivered !== null };
    this.list = this.list.map((one) => (one === known ? now : one));
  }

  /** Orders files once all edits are on the server. Returns how many; 0 when it was refused. */
  async order(wanted: Wanted): Promise<number> {
    await this.session.settled();
    try {
      const ordered = await api.post<DeliveryView[]>(`/api/projects/${this.session.projectId}/deliveries`, {
        wanted,
        settings: this.#settings
      });
      // Short ones may have ended before their news could be heard here.
      await this.load();
      return ordered.length;
    } catch (error) {
      notices.fault(error);
      return 0;
    }
  }

  async cancel(ids: readonly string[]): Promise<void> {
    for (const id of ids)
      await api.post(`/api/jobs/${id}/cancel`).catch((error: unknown) => notices.fault(error));
  }

  async savePreset(name: string): Promise<boolean> {
    try {
      await api.post("/api/delivery-presets", { name, settings: this.#settings });
      await this.load();
      return true;
    } catch (error) {
      notices.fault(error);
      return false;
    }
  }

  async removePreset(id: string): Promise<void> {
    await api.remove(`/api/delivery-presets/${id}`).catch((error: unknown) => notices.fault(error));
    await this.load();
  }
}
